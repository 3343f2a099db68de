"""What is attached where: hosts on ports, the LAGs they bond to, and the segments that each port carries."""
