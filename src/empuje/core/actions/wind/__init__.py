"""Wind by code: from the site to pressures on surfaces and line loads on unclad members."""
