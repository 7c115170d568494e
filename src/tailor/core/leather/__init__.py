"""What the leather is: a sheet, and sheets in a stack."""
