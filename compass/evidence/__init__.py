"""What was measured and told: frozen records, validated when made."""
