"""Values, times, timecode, geometry and loudspeakers: what everything is counted in."""
