/** What subjects of all kinds say of where their media lie. */
interface Placed {
  readonly volumeId?: string | null | undefined;
  readonly timeline?: { readonly media: Readonly<Record<string, { readonly volumeId: string }>> } | undefined;
}

/** Volumes that a subject names, each once. */
export function volumesOfTrial({ volumeId, timeline }: Placed): string[] {
  if (timeline) return [...new Set(Object.values(timeline.media).map((use) => use.volumeId))];
  return volumeId == null ? [] : [volumeId];
}
