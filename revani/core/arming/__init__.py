"""Before a shot is left to the rig: what stands against it, and when the rig is free."""
