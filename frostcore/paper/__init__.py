"""What a service paper says: its tables as typed or pasted, and the draft of a sheet that follows."""
