"""Grid, nodes, materials, sections, families of members, supports, rigid floors and surfaces."""
