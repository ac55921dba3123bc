export async function takeScreenshots(): Promise<void> { throw new Error('not yet'); }
