"""What is put on the leather before it is sewn: fields with their borders and textures, pictures, lettering, marks."""
