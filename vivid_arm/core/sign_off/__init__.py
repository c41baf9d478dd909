"""After fitting: checks with their limits, lash, torque."""
