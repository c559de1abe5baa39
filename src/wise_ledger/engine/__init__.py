"""What is kept between questions: column segments, timelines spliced for what changed,
within a budget.
"""
