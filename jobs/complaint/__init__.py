"""The Complaint leg: words, interview, what to measure first."""
