/** Tests that need a database have one for each worker, so that two files may run side by side. */
if (process.env.NAVVY_UNIT_DATABASE_URL)
  process.env.NAVVY_DATABASE_URL = `${process.env.NAVVY_UNIT_DATABASE_URL}_${process.env.JEST_WORKER_ID}`;
