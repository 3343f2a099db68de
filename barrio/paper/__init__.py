"""What goes on paper: labels with their codes, and pages for the hall. Draws what `core.cabling` worked out, and works out nothing itself."""
