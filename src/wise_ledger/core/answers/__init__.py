"""What every table is made of: values, reasons, cells."""
