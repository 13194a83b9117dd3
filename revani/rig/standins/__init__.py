"""Small simulated devices that listen on loopback and speak the same protocols as the drivers."""
