"""Scale models to print: the scene as cut, as closed pieces that fit on the plate of a printer."""
