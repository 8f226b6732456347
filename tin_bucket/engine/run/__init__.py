"""One run: its plan, its calls, its pages, its end."""
