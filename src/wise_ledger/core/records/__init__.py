"""What a source says, record by record, before and as the ledger keeps it."""
