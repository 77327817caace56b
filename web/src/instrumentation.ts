/** Runs once when the server starts: takes the data directory, and closes the database when asked to stop. */
export async function register(): Promise<void> {
  if (process.env.NEXT_RUNTIME !== 'nodejs') return;
  const { start } = await import('./server/start');
  await start();
}
