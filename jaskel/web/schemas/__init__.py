"""What goes over the wire. The OpenAPI description, and from it the types of the page, are generated from these."""
