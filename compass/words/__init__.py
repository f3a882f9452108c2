"""Every sentence the core can say."""
