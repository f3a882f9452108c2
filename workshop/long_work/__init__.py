"""Work too long for a request: kinds of it, asking for one, carrying it out, the page that shows how far it is."""
