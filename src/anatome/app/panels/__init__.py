"""The panels round the stage: key plan, parts, inspector, contact sheet, welcome."""
