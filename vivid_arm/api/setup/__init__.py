"""A build's set-up, its instruments, the rules it offers."""
