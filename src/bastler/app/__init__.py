"""Everything Qt. Widgets render a job, a plan, a proof and a selection, and send edits; they hold no truth."""
