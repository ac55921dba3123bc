/** What a rig is. */
export interface RigIdentity {
  readonly host: string;
  readonly processor: string;
  readonly physicalCores: number;
  readonly logicalCores: number;
  readonly memoryBytes: number;
  readonly graphics: readonly string[];
  readonly system: string;
  readonly kernel: string;
  /** "physical", or what kind of virtual machine. */
  readonly machine: string;
  /** Disks with their size and bus; absent where the rig was written down before these were kept. */
  readonly disks?: readonly string[];
  /** Network interfaces with their speed. */
  readonly networks?: readonly string[];
}

/** What a rig is doing at one moment. */
export interface RigState {
  readonly at: string;
  readonly power: 'mains' | 'battery' | 'unknown';
  readonly processorGovernor: string | null;
  readonly loadAverage: number;
  readonly freeMemoryBytes: number;
  /** Busiest other processes, by share of one core. */
  readonly busiest: readonly { readonly name: string; readonly share: number }[];
  /** Null where the system tells none. */
  readonly temperatureCelsius?: number | null;
  readonly clockGigahertz?: number | null;
}
