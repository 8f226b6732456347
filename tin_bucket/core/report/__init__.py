"""Reports: pages of text with live figures in their sentences, and numbered exhibits between them."""
