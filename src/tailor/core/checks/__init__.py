"""What an experienced maker would say before the knife goes in."""
