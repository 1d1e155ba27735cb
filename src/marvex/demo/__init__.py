"""The demo data of Ostrey Sound Ferries, a made-up company, and the script that made them."""
