"""Parts of cut files laid on sheets."""
