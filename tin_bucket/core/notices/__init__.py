"""Notices: what somebody is told without looking, on a time or when something holds."""
