"""Together: a case put together from its flat pieces alone, and judged by what it then is."""
