"""The shop: what outlives a job. Leathers and skins, stock, orders, and what a job needs and costs."""
