export async function runTests(): Promise<void> { throw new Error('not yet'); }
