"""The unattended run: a process of its own that needs neither the web server nor a browser."""
