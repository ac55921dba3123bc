import { mkdir, mkdtemp, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { dirname, join } from 'node:path';
import { Sensors } from './sensors';

let root: string;
beforeEach(async () => {
  root = await mkdtemp(join(tmpdir(), 'navvy-sensors-'));
});
afterEach(() => rm(root, { recursive: true }));

async function write(files: Readonly<Record<string, string>>): Promise<void> {
  for (const [path, text] of Object.entries(files)) {
    await mkdir(dirname(join(root, path)), { recursive: true });
    await writeFile(join(root, path), `${text}\n`);
  }
}

const cpu = 'sys/devices/system/cpu';

test('the fastest core’s clock, the hottest sensor of the processor, and whether a count of throttling has moved', async () => {
  await write({
    [`${cpu}/cpu0/cpufreq/scaling_cur_freq`]: '800000',
    [`${cpu}/cpu1/cpufreq/scaling_cur_freq`]: '3412345',
    [`${cpu}/cpufreq/boost`]: '1',
    [`${cpu}/cpu0/thermal_throttle/core_throttle_count`]: '7',
    [`${cpu}/cpu1/thermal_throttle/package_throttle_count`]: '3',
    'sys/class/hwmon/hwmon0/name': 'nvme',
    'sys/class/hwmon/hwmon0/temp1_input': '99000',
    'sys/class/hwmon/hwmon1/name': 'coretemp',
    'sys/class/hwmon/hwmon1/temp1_input': '61000',
    'sys/class/hwmon/hwmon1/temp2_input': '64500',
    'sys/class/hwmon/hwmon1/temp1_max': '100000',
    'sys/class/thermal/thermal_zone0/type': 'x86_pkg_temp',
    'sys/class/thermal/thermal_zone0/temp': '70000',
  });
  const sensors = new Sensors(root);
  expect(sensors.look()).toEqual({ clockGigahertz: 3.412345, temperatureCelsius: 64.5, throttled: false });
  await write({
    [`${cpu}/cpu1/cpufreq/scaling_cur_freq`]: '1200000',
    [`${cpu}/cpu1/thermal_throttle/package_throttle_count`]: '4',
    'sys/class/hwmon/hwmon1/temp2_input': '97000',
  });
  expect(sensors.look()).toEqual({ clockGigahertz: 1.2, temperatureCelsius: 97, throttled: true });
  expect(sensors.look().throttled).toBe(false); // no more since
});

test('a machine without such drivers tells of zones, and throttles by what cools it', async () => {
  await write({
    'proc/cpuinfo': 'flags\t\t: fpu vme\ncpu MHz\t\t: 1800.000\n\nflags\t\t: fpu vme\ncpu MHz\t\t: 2400.500',
    'sys/class/thermal/thermal_zone0/type': 'battery',
    'sys/class/thermal/thermal_zone0/temp': '31000',
    'sys/class/thermal/thermal_zone1/type': 'cpu-thermal',
    'sys/class/thermal/thermal_zone1/temp': '55000',
    'sys/class/thermal/cooling_device0/type': 'Processor',
    'sys/class/thermal/cooling_device0/cur_state': '0',
    'sys/class/thermal/cooling_device1/type': 'Fan',
    'sys/class/thermal/cooling_device1/cur_state': '3',
  });
  const sensors = new Sensors(root);
  expect(sensors.look()).toEqual({ clockGigahertz: 2.4005, temperatureCelsius: 55, throttled: false });
  await write({ 'sys/class/thermal/cooling_device0/cur_state': '2' });
  expect(sensors.look().throttled).toBe(true);
});

test('a guest, which is told the clock its processor was sold with, tells none; nor does a system without sensors', async () => {
  await write({ 'proc/cpuinfo': 'flags\t\t: fpu hypervisor\ncpu MHz\t\t: 2700.000' });
  const silent = { clockGigahertz: null, temperatureCelsius: null, throttled: null };
  expect(new Sensors(root).look()).toEqual(silent);
  await rm(join(root, 'proc'), { recursive: true });
  expect(new Sensors(root).look()).toEqual(silent);
});

test('a sensor that goes during a run leaves its place empty', async () => {
  await write({
    'sys/class/hwmon/hwmon0/name': 'k10temp',
    'sys/class/hwmon/hwmon0/temp1_input': '48000',
  });
  const sensors = new Sensors(root);
  expect(sensors.look().temperatureCelsius).toBe(48);
  await rm(join(root, 'sys'), { recursive: true });
  expect(sensors.look()).toEqual({ clockGigahertz: null, temperatureCelsius: null, throttled: null });
});
