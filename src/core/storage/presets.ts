import type { ArrayLayout, Drive } from './array';
import { ethernetPayloadShare, type Link } from './link';
import type { StorageModel } from './model';

/** General links, drives and arrays in neutral words, as starting points. A technician puts the figures of the real part in their place. */

const network = (gigabits: number, jumbo: boolean): Link => ({
  label: `${gigabits} Gb/s Ethernet, ${jumbo ? 'jumbo' : 'normal'} frames`,
  lineBitsPerSecond: gigabits * 1e9,
  payloadShare: ethernetPayloadShare(jumbo ? 9_000 : 1_500),
  roundTripUs: 250,
  depth: 8,
  requestBytes: 2 ** 20,
});

/** USB carries 8 bits in 10 up to 5 Gb/s and 128 in 132 beyond; protocol takes about a tenth more. */
const usb = (gigabits: number): Link => ({
  label: `USB ${gigabits} Gb/s`,
  lineBitsPerSecond: gigabits * 1e9,
  payloadShare: (gigabits <= 5 ? 8 / 10 : 128 / 132) * 0.9,
  roundTripUs: 60,
  depth: 8,
  requestBytes: 2 ** 20,
});

/** PCIe through a cable carries 128 bits in 130; packet heads take about a tenth. */
const tunnel = (gigabits: number): Link => ({
  label: `PCIe tunnel ${gigabits} Gb/s`,
  lineBitsPerSecond: gigabits * 1e9,
  payloadShare: (128 / 130) * 0.9,
  roundTripUs: 30,
  depth: 32,
  requestBytes: 2 ** 20,
});

/** A bus inside the machine or its card reader: `megabytes` of data per second, as its standard states it. */
const bus = (label: string, megabytes: number, depth = 4): Link => ({
  label,
  lineBitsPerSecond: megabytes * 8e6,
  payloadShare: 1,
  roundTripUs: 80,
  depth,
  requestBytes: 2 ** 20,
});

export const linkPresets: Readonly<Record<string, Link>> = {
  ...Object.fromEntries(
    [1, 2.5, 5, 10, 25].flatMap(
      (gigabits) =>
        [
          [`ethernet-${gigabits}`, network(gigabits, false)],
          [`ethernet-${gigabits}-jumbo`, network(gigabits, true)],
        ] as [string, Link][],
    ),
  ),
  ...Object.fromEntries([5, 10, 20].map((gigabits) => [`usb-${gigabits}`, usb(gigabits)])),
  ...Object.fromEntries([22, 32, 64].map((gigabits) => [`tunnel-${gigabits}`, tunnel(gigabits)])),
  'sata-6': { ...bus('SATA 6 Gb/s', 600, 32), payloadShare: 0.93 },
  'pcie-4': { ...bus('PCIe inside, 4 lanes', 7_000, 64), roundTripUs: 20 },
  'card-104': bus('Card reader, UHS-I bus', 104),
  'card-312': bus('Card reader, UHS-II bus', 312),
  'card-600': bus('Card reader, SATA card bus', 600),
  'card-985': bus('Card reader, PCIe 3 bus, 1 lane', 985),
  'card-1970': bus('Card reader, PCIe 3 bus, 2 lanes', 1_970),
};

/** Fallback where a preset's name is not known any more. */
export function linkPreset(name: string): Link {
  return linkPresets[name] ?? network(1, false);
}

export const drivePresets: Readonly<Record<string, Drive>> = {
  disk: {
    label: 'Rotating disk, 18 TB',
    bytes: 18e12,
    readBytesPerSecond: 250e6,
    writeBytesPerSecond: 245e6,
    accessUs: 12_000,
    burst: null,
  },
  'disk-portable': {
    label: 'Rotating disk, portable, 5 TB',
    bytes: 5e12,
    readBytesPerSecond: 135e6,
    writeBytesPerSecond: 125e6,
    accessUs: 16_000,
    burst: null,
  },
  ssd: {
    label: 'SATA SSD, 4 TB',
    bytes: 4e12,
    readBytesPerSecond: 540e6,
    writeBytesPerSecond: 450e6,
    accessUs: 90,
    burst: null,
  },
  'ssd-burst': {
    label: 'Portable SSD with burst cache, 2 TB',
    bytes: 2e12,
    readBytesPerSecond: 1_000e6,
    writeBytesPerSecond: 420e6,
    accessUs: 90,
    burst: { bytes: 60e9, bytesPerSecond: 950e6 },
  },
  nvme: {
    label: 'NVMe SSD, 4 TB',
    bytes: 4e12,
    readBytesPerSecond: 6_500e6,
    writeBytesPerSecond: 1_800e6,
    accessUs: 60,
    burst: { bytes: 200e9, bytesPerSecond: 5_800e6 },
  },
  card: {
    label: 'Memory card, 256 GB',
    bytes: 256e9,
    readBytesPerSecond: 280e6,
    writeBytesPerSecond: 150e6,
    accessUs: 300,
    burst: null,
  },
  'card-fast': {
    label: 'Memory card, fast, 512 GB',
    bytes: 512e9,
    readBytesPerSecond: 1_700e6,
    writeBytesPerSecond: 1_300e6,
    accessUs: 120,
    burst: null,
  },
};

export function drivePreset(name: string): Drive {
  return drivePresets[name] ?? (drivePresets.disk as Drive);
}

/** A model from presets, quiet and without a server cache unless told otherwise. */
export function modelOf(
  link: string,
  drive: string,
  layout: ArrayLayout = { level: 0, drives: 1 },
  change: Partial<StorageModel> = {},
): StorageModel {
  return {
    link: linkPreset(link),
    drive: drivePreset(drive),
    ...layout,
    cache: { bytes: 0, bytesPerSecond: 2_000e6 },
    jitterUs: 0,
    othersBytesPerSecond: 0,
    fault: null,
    seed: 1,
    ...change,
  };
}
