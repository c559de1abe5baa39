"""Economic series: periods, vintages, transforms, comparisons (section S of the domain rules)."""
