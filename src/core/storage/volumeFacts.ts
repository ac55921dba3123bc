/** What the system tells of the place a volume lies on. Sizes in bytes. */
export interface VolumeFacts {
  readonly fileSystem: string;
  readonly device: string;
  readonly mountPoint: string;
  readonly sizeBytes: number;
  readonly freeBytes: number;
  readonly rotational: boolean | null;
  readonly writable: boolean;
  /** Absent in volumes noted before this was read. */
  readonly mountOptions?: readonly string[];
  /** The store it is mounted from, or null for a device of this host. */
  readonly network?: { readonly server: string; readonly share: string } | null;
}

export type VolumeKind = 'internal' | 'external' | 'network' | 'card';
