"""Names of made-up things in four languages, so that no rule leans on one of them."""

from __future__ import annotations

PORTS = ("Tern Rock", "Outer Bar", "Castle Reach", "Gannet Quay", "Skerry Point", "Harbour Green")
CITIES = ("Oberstadt", "Niederau", "Villanova", "Puerto Claro", "Saint-Loup", "Eastmere", "Northolt", "Kirchfeld")
PRODUCTS = ("Rope", "Lantern", "Buoy", "Sextant", "Kompass", "Vela", "Ancre", "Timón", "Paddel", "Bouée")
TEAMS = ("Technik", "Ventas", "Atelier", "Finance", "Hafen", "Personal", "Achats", "Support")
PEOPLE = ("Ada Moor", "Jan Krüger", "Inés Vidal", "Luc Perrin", "Mia Holt", "Omar Diaz", "Eva Lang", "Tom Reed")
