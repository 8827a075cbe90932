"""The pages: thin views over the core and the store."""
