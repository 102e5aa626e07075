"""The dialogs that send pictures, drawings and models out."""
