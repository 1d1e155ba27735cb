"""What views draw with: the canvas, text that is measured, labels that find room, lanes and axes, style."""
