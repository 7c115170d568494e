"""Cases formed round their object: the claims on their seam, their mouth, their two sides."""
