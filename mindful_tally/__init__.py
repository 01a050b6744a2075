"""The Django project: settings, addresses, the command line, the shop's look."""
