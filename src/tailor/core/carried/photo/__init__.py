"""A photograph of the object on the printed mat, and how it becomes an outline at true size."""
