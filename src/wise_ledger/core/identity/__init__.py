"""Names, symbols and identifiers of companies."""
