/** Waits for several things at once, each under its name. @throws what the first of them that fails throws */
export async function together<Parts extends Readonly<Record<string, unknown>>>(
  parts: Parts,
): Promise<{ [Name in keyof Parts]: Awaited<Parts[Name]> }> {
  const entries = Object.entries(parts);
  const values = await Promise.all(entries.map(([, part]) => part));
  return Object.fromEntries(entries.map(([name], at) => [name, values[at]])) as {
    [Name in keyof Parts]: Awaited<Parts[Name]>;
  };
}
