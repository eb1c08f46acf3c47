"""The web application: routes, wire types and error statuses around a workspace."""
