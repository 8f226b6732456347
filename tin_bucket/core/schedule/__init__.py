"""When something is due: schedules, and their moments."""
