import { drivePreset, modelOf } from '@/core/storage/presets';
import type { StorageModel } from '@/core/storage/model';
import type { VolumeKind } from '@/core/storage/volumeFacts';

/** A volume of the made-up documentary. Its folder lies below the demo media; several may share one. */
export interface DemoVolume {
  readonly id: string;
  readonly name: string;
  readonly kind: VolumeKind;
  readonly folder: string;
  /** Which clips lie on it: the beginning of their path. */
  readonly holds: readonly string[];
  readonly standIn: StorageModel | null;
  readonly notes: string;
  readonly price: number | null;
}

const everything = [''];
const originals = ['wall-camera', 'marsh-camera', 'kite-camera'];
const store = (link: string) =>
  modelOf(
    link,
    'disk',
    { level: 6, drives: 8 },
    { cache: { bytes: 256e6, bytesPerSecond: 4e9 }, jitterUs: 300, othersBytesPerSecond: 4e6, seed: 11 },
  );
const shuttleDrive = {
  ...drivePreset('ssd-burst'),
  label: 'Portable SSD, small burst cache, 2 TB',
  readBytesPerSecond: 520e6,
  writeBytesPerSecond: 160e6,
  burst: { bytes: 500e6, bytesPerSecond: 400e6 },
};

/** The scenario's volumes; the first holds the media itself. */
export const demoVolumes: readonly DemoVolume[] = [
  {
    id: 'volume-demo-edit-room',
    name: 'Edit room internal',
    kind: 'internal',
    folder: 'edit-room-internal',
    holds: everything,
    standIn: null,
    notes: '',
    price: 0,
  },
  {
    id: 'volume-demo-shuttle',
    name: 'Shuttle SSD',
    kind: 'external',
    folder: 'shuttle-ssd',
    holds: everything,
    standIn: { ...modelOf('usb-10', 'ssd-burst'), drive: shuttleDrive },
    notes: 'Travels between harbour and edit room',
    price: 180,
  },
  {
    id: 'volume-demo-field-pair',
    name: 'Field disk pair',
    kind: 'external',
    folder: 'field-pair',
    holds: originals,
    standIn: modelOf('usb-5', 'disk-portable', { level: 1, drives: 2 }),
    notes: 'Mirrored, in the field case',
    price: 260,
  },
  ...[1, 5, 10].map((gigabits): DemoVolume => ({
    id: `volume-demo-store-${gigabits}`,
    name: `Harbour-office store, ${gigabits} Gb/s`,
    kind: 'network',
    folder: 'harbour-store',
    holds: everything,
    standIn: store(`ethernet-${gigabits}`),
    notes: 'Shared with the office',
    price: 4_200,
  })),
  {
    id: 'volume-demo-card-wall',
    name: 'Wall card in reader A',
    kind: 'card',
    folder: 'card-wall',
    holds: ['wall-camera'],
    standIn: modelOf('card-312', 'card'),
    notes: '',
    price: 60,
  },
  {
    id: 'volume-demo-card-kite',
    name: 'Kite card in reader B',
    kind: 'card',
    folder: 'card-kite',
    holds: ['kite-camera'],
    standIn: modelOf('card-104', 'card'),
    notes: '',
    price: 25,
  },
];
