"""Values over time: keys as they are kept, the polynomial pieces they become, and what of a graph takes keys."""
