"""Structures in and out: lists of links, the topology of RFC 8345, GraphML, DOT and SVG."""
