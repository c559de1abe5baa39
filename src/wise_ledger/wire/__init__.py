"""The API's models: the only thing that service and client share."""
