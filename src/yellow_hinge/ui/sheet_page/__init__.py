"""The Sheet page: what will be printed, as it will be printed."""
