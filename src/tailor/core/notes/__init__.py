"""The apprentice's notes: why each rule is as it is, in a few sentences and a picture."""
