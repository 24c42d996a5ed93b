"""The frame of every act: who, where, when, and what has to be done afterwards."""
