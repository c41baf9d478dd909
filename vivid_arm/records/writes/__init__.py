"""Checked writes, a module a step: take what was entered, check it with the core, keep it."""
