"""What players carry from roll to roll and event to event, and so what comes after many events."""
