"""What happened to a build and to the shop; notes; changes taken back."""
