"""What every act rests on: refusals, plain text, secrets, days of work."""
