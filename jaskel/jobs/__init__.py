"""Long work, done by the worker process: preparing recordings, transcribing them, exporting editions."""
