import { accessSync, constants, existsSync, readdirSync, readFileSync, readlinkSync } from 'node:fs';
import { basename, join } from 'node:path';
import type { AVHWDeviceType } from 'node-av/constants';
import { HardwareDeviceContext } from 'node-av/lib';
import { standInDevices } from '@/core/decode/standIns';

/** A kind of decode device of this system, or a stand-in. */
export interface DeviceReport {
  readonly id: string;
  /** As the codec library names the kind, or the stand-in's name. */
  readonly name: string;
  readonly simulated: boolean;
  readonly usable: boolean;
  /** What it is, or what is missing: device node, driver, permission. */
  readonly about: string;
}

/** The decode devices this rig may have, tried out one by one, and the stand-ins. A driver may end the process: call it in one that may end. */
export function listDevices(): DeviceReport[] {
  const graphics = readGraphics();
  const real = HardwareDeviceContext.iterateTypes().map((type) => tryDevice(type, graphics));
  const standIns = standInDevices.map(({ id, name, about }) => ({ id, name, simulated: true, usable: true, about }));
  return [...real, ...standIns];
}

function tryDevice(type: AVHWDeviceType, graphics: Graphics): DeviceReport {
  const name = HardwareDeviceContext.getTypeName(type) ?? String(type);
  const context = new HardwareDeviceContext();
  const code = context.create(type);
  if (code >= 0) context.free();
  const usable = code >= 0;
  return { id: `device-${name}`, name, simulated: false, usable, about: usable ? 'Opens and takes work.' : `${whatIsMissing(graphics)} The codec library answered with code ${code}.` };
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
  const list = (folder: string) => (existsSync(folder) ? readdirSync(folder) : []);
  return {
    controllers: list(devices).filter((address) => readText(join(devices, address, 'class')).startsWith('0x03')).map((address) => ({ address, driver: linkName(join(devices, address, 'driver')) })),
    nodes: list(nodes).filter((name) => name.startsWith('renderD')).map((name) => ({ path: join(nodes, name), allowed: mayUse(join(nodes, name)) })),
  };
}

/** Names what a device needs and does not find, the first thing first: hardware, driver, device node, permission, user-space driver. */
export function whatIsMissing({ controllers, nodes }: Graphics): string {
  const [controller] = controllers;
  const [node] = nodes;
  if (!controller && !node) return 'No device: the system shows no display controller and no device node in /dev/dri.';
  if (controller && controllers.every(({ driver }) => driver === null)) return `No driver: no kernel driver is bound to the display controller ${controller.address}. Install its driver.`;
  if (!node) return 'No device node: a driver is there, but /dev/dri has no render node. Load the driver’s rendering part, or hand the node into this container.';
  if (nodes.every(({ allowed }) => !allowed)) return `No permission: this user may not use ${node.path}. Add the user to the group that owns it.`;
  return 'The device node is there and may be used; the decode library of its driver is missing or refuses this kind.';
}

function readText(path: string): string {
  try {
    return readFileSync(path, 'utf8').trim();
  } catch {
    return '';
  }
}

function linkName(path: string): string | null {
  try {
    return basename(readlinkSync(path));
  } catch {
    return null;
  }
}

function mayUse(path: string): boolean {
  try {
    accessSync(path, constants.R_OK | constants.W_OK);
    return true;
  } catch {
    return false;
  }
}
