"""The HTTP interface: thin routers over the studio, one a station."""
