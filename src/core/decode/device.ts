import type { ExportCodecId, ExportPicture } from '../tasks/exportCodecs';

/** Something that a device encodes. */
export interface DeviceEncoding {
  readonly codec: ExportCodecId;
  readonly picture: ExportPicture;
}

/** Id of a real device of a kind, as the codec library names that. */
export const idOfDevice = (kind: string): string => `device-${kind}`;

/** The kind of a real device, as the codec library names it. */
export const kindOfDevice = (id: string): string => id.replace(/^device-/, '');

/** A kind of device of this system that decodes or encodes, or a stand-in. */
export interface DeviceReport {
  readonly id: string;
  /** As the codec library names the kind, or the stand-in's name. */
  readonly name: string;
  readonly simulated: boolean;
  /** It has decoded a frame of some format. */
  readonly usable: boolean;
  /** Of what it has encoded a frame that could be decoded again; absent: of nothing, or it was never tried. */
  readonly encodes?: readonly DeviceEncoding[];
  /** What it is and decodes, or what is missing: device node, driver, permission, a decoder. */
  readonly about: string;
}
