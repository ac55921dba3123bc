import { accessSync, constants } from 'node:fs';
import { basename, join } from 'node:path';
import { AV_LOG_VERBOSE, type AVHWDeviceType } from 'node-av/constants';
import { HardwareDeviceContext, Log } from 'node-av/lib';
import { standInReports } from '@/core/tasks/encodeDevices';
import { exportCodecs } from '@/core/tasks/exportCodecs';
import { encodingsOf } from './encodeProof';
import { linkOf, namesIn, textOf } from '../systemFiles';
import { formatsDecodedBy, freeProofClips, proofClips, type ProofClip } from './deviceProof';
import { idOfDevice, type DeviceEncoding, type DeviceReport } from '@/core/decode/device';

/** The decode devices this rig may have, tried out one by one, and the stand-ins. A driver may end the process: call it in one that may end. */
export async function listDevices(): Promise<DeviceReport[]> {
  const graphics = readGraphics();
  const clips: ProofClip[] = [];
  const real: DeviceReport[] = [];
  for (const type of HardwareDeviceContext.iterateTypes()) {
    const name = HardwareDeviceContext.getTypeName(type) ?? String(type);
    const found = await tryDevice(type, name, graphics, clips);
    real.push({ id: idOfDevice(name), name, simulated: false, ...found });
  }
  freeProofClips(clips);
  return [...real, ...standInReports()];
}

/** @param clips what a device has to decode; made for the first one that opens */
async function tryDevice(
  type: AVHWDeviceType,
  name: string,
  graphics: Graphics,
  clips: ProofClip[],
): Promise<Found> {
  const device = new HardwareDeviceContext();
  const said: string[] = [];
  const code = await creating(device, type, said);
  if (code < 0)
    return {
      usable: false,
      about: `${whatIsMissing(graphics)} The codec library answered with code ${code}.`,
    };
  try {
    if (clips.length === 0) clips.push(...(await proofClips()));
    const renderer = softwareRenderer(said);
    return judgeDevice(
      renderer,
      formatsDecodedBy(device, clips),
      clips.map(({ format }) => format),
      renderer === null ? await encodingsOf(device, name) : [],
    );
  } finally {
    device.free();
  }
}

/** What was found out of a device. */
type Found = Pick<DeviceReport, 'usable' | 'encodes' | 'about'>;

/**
 * What an open device is worth: only what gave a decoded frame is a decode device, and only what encoded one an encode device.
 * @param renderer the name of the software renderer that it is, or null
 */
export function judgeDevice(
  renderer: string | null,
  decoded: readonly string[],
  tried: readonly string[],
  encodes: readonly DeviceEncoding[] = [],
): Found {
  const what = renderer === null ? '' : `Software renderer (${renderer}): it computes on the processor. `;
  const decodes =
    decoded.length === 0
      ? `Opens, but decodes nothing: no frame came of ${tried.join(', ')}.`
      : `Decoded a frame of ${decoded.join(', ')}.`;
  return {
    usable: decoded.length > 0,
    about: `${what}${decodes}${encodes.length === 0 ? '' : ` Encoded frames of ${encodingWords(encodes)}.`}`,
    ...(encodes.length === 0 ? {} : { encodes }),
  };
}

/** "H.264 (8-bit 4:2:0, 10-bit 4:2:0), AV1 (8-bit 4:2:0)". */
function encodingWords(encodes: readonly DeviceEncoding[]): string {
  return [...new Set(encodes.map(({ codec }) => codec))]
    .map((codec) => {
      const pictures = encodes.filter((one) => one.codec === codec).map(({ picture }) => picture);
      return `${exportCodecs[codec].name} (${pictures.join(', ')})`;
    })
    .join(', ');
}

/** The name of a software renderer, from what the codec library says when it chooses a device ("Device 0 selected: NAME (software) (0x0)"); null for hardware. */
export function softwareRenderer(said: readonly string[]): string | null {
  const chosen = said
    .map((line) => /Device \d+ selected: (.+) \(software\)/.exec(line)?.[1])
    .find((name) => name !== undefined);
  return chosen?.replace(/ \(.*\)$/, '') ?? null;
}

const lastWord = 'Navvy: the device was tried.';

/**
 * Opens a device. @param said receives what the codec library says meanwhile. Its words come from another
 * thread: the listener stays until the last one has come, because one that comes later would end the process.
 */
async function creating(
  device: HardwareDeviceContext,
  type: AVHWDeviceType,
  said: string[],
): Promise<number> {
  const level = Log.getLevel();
  const heardAll = new Promise<void>((resolve) => {
    const alive = setInterval(() => undefined, 1_000); // the listener alone does not keep the process waiting
    Log.setCallback(
      (_level, message) => {
        if (message.includes(lastWord)) {
          clearInterval(alive);
          resolve();
        } else said.push(message);
      },
      { maxLevel: AV_LOG_VERBOSE },
    );
  });
  Log.setLevel(AV_LOG_VERBOSE);
  const code = device.create(type);
  Log.log(AV_LOG_VERBOSE, lastWord);
  Log.setLevel(level);
  await heardAll;
  Log.resetCallback();
  return code;
}

/** Graphics hardware as the kernel tells: display controllers with their drivers, and render nodes. */
export interface Graphics {
  readonly controllers: readonly { readonly address: string; readonly driver: string | null }[];
  readonly nodes: readonly { readonly path: string; readonly allowed: boolean }[];
}

/** @param root where the kernel's file systems are mounted */
export function readGraphics(root = '/'): Graphics {
  const devices = join(root, 'sys/bus/pci/devices');
  const nodes = join(root, 'dev/dri');
  return {
    controllers: namesIn(devices)
      .filter((address) => textOf(join(devices, address, 'class'))?.startsWith('0x03'))
      .map((address) => {
        const driver = linkOf(join(devices, address, 'driver'));
        return { address, driver: driver && basename(driver) };
      }),
    nodes: namesIn(nodes)
      .filter((name) => name.startsWith('renderD'))
      .map((name) => ({ path: join(nodes, name), allowed: mayUse(join(nodes, name)) })),
  };
}

/** Names what a device needs and does not find, the first thing first: hardware, driver, device node, permission, user-space driver. */
export function whatIsMissing({ controllers, nodes }: Graphics): string {
  const [controller] = controllers;
  const [node] = nodes;
  if (!controller && !node)
    return 'No device: the system shows no display controller and no device node in /dev/dri.';
  if (controller && controllers.every(({ driver }) => driver === null))
    return `No driver: no kernel driver is bound to the display controller ${controller.address}. Install its driver.`;
  if (!node)
    return 'No device node: a driver is there, but /dev/dri has no render node. Load the driver’s rendering part, or hand the node into this container.';
  if (nodes.every(({ allowed }) => !allowed))
    return `No permission: this user may not use ${node.path}. Add the user to the group that owns it.`;
  return 'The device node is there and may be used; the decode library of its driver is missing or refuses this kind.';
}

function mayUse(path: string): boolean {
  try {
    accessSync(path, constants.R_OK | constants.W_OK);
    return true;
  } catch {
    return false;
  }
}
