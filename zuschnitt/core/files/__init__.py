"""Files in and out: artwork, cut files, meshes, reports and the job."""
