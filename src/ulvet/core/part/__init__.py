"""Part: cuts, keys, joints, and the order in which a figure goes together."""
