"""The web application: pages, JSON interface, scripts and styles. Views hold no queries and no rules of the job."""
