"""How the web server runs where nothing else is said on the command line; see docs/running.md."""

worker_class = "mindful_tally.worker.TimedWorker"
workers = 2
threads = 4
