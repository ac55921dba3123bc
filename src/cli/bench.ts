export async function runBench(): Promise<void> { throw new Error('not yet'); }
