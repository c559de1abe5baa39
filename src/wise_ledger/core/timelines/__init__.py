"""The fiscal axis: how the figure of each period of each company moved as knowledge arrived."""
