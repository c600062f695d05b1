"""What a project holds: small dataclasses that hold and check, and never paint, save or notify."""
