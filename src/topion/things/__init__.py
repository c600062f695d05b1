"""Things: may they stand there (rules and verdicts), and what a field sows."""
