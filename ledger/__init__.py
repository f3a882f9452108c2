"""The ledger: looking back over all closed jobs. Reads rows of the jobs; writes only what is learnt from them."""
