/** A kind of decode device of this system, or a stand-in. */
export interface DeviceReport {
  readonly id: string;
  /** As the codec library names the kind, or the stand-in's name. */
  readonly name: string;
  readonly simulated: boolean;
  /** It has decoded a frame of some format. */
  readonly usable: boolean;
  /** What it is and decodes, or what is missing: device node, driver, permission, a decoder. */
  readonly about: string;
}
