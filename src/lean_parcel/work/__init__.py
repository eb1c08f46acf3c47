"""Work: joins the core's rules with the store, and runs what is dear in worker processes."""
