"""One module a use case. Rules stay in core, SQL in store; here they meet."""
