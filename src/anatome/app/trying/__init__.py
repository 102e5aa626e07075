"""What can be tried on: suggestions and looks, as rounds that leave nothing behind when they are taken back."""
