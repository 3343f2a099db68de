"""Where things stand: racks and trays in halls, routes along the trays, and what is in each unit of a rack."""
