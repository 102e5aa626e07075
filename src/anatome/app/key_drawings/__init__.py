"""The two small live drawings that show and edit every cut and the camera: key plan and key elevation."""
