"""Stitching: holes, seams, fastenings and what is told of them."""
