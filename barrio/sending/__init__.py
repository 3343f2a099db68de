"""What leaves this machine for others to know: signed webhooks, mail, and git. Each is done once to effect, however often it is tried."""
