/** The way to a mounted volume's server. */
export interface NetworkLink {
  readonly volume: string;
  readonly server: string;
  /** The network interface that leads there; null where none was found. */
  readonly interfaceName: string | null;
}

/** What passed the interfaces to the servers of a run's volumes, by any program, beside what the run itself read and wrote, on whatever volume. */
export interface LinkSummary {
  readonly links: readonly NetworkLink[];
  readonly carriedBytes: number;
  readonly movedBytes: number;
}

/** Servers with the interface to each: "127.0.0.1 over lo". */
export function linkNames(links: readonly NetworkLink[]): string {
  return [
    ...new Set(
      links.map(
        ({ server, interfaceName }) => `${server}${interfaceName === null ? '' : ` over ${interfaceName}`}`,
      ),
    ),
  ].join(', ');
}
