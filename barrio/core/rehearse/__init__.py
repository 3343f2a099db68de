"""What of a fabric is rehearsed, and what its plan says must come true: slices, hosts with addresses, paths, and who reaches whom."""
