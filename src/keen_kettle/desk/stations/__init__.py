"""One room a station of the loop; no station knows another."""
