import { join } from 'node:path';
import type { SensorLook } from '@/core/rig/sensors';
import { entriesOf, numbersIn, textOf } from './systemFiles';
import { greatest } from '@/core/stats/extremes';

/** Drivers of sensors that sit in a processor, by the names that the kernel gives them. */
const processorSensors = /^(coretemp|k10temp|zenpower|cpu_thermal|soc_thermal|scpi_sensors)$/;
/** Thermal zones of a processor, where there is no such driver. */
const processorZones = /^(x86_pkg_temp|cpu|soc|tctl)/i;
/** What cools by slowing a processor down. */
const processorCooling = /^(processor|thermal-cpufreq|cpufreq|thermal-devfreq-cpu)/i;

const highest = (values: readonly number[]) => (values.length === 0 ? null : greatest(values));

/**
 * A processor's clock, temperature and throttling, read straight from the system: a sensor library starts other programs for
 * each look. Where the files are is found out once.
 *
 * Source: kernel, Documentation/admin-guide/pm/cpufreq (`scaling_cur_freq`, kHz), hwmon/sysfs-interface (`temp*_input`,
 * 1/1000 °C), driver-api/thermal/sysfs-api (zones and cooling devices), ABI/testing/sysfs-devices-system-cpu (`thermal_throttle`).
 */
export class Sensors {
  private readonly clocks: readonly string[];
  private readonly cpuinfo: string | null;
  private readonly temperatures: readonly string[];
  private readonly throttleCounts: readonly string[];
  private readonly cooling: readonly string[];
  private counted: number;

  /** @param root in which `sys` and `proc` are; another one for tests */
  constructor(root = '/') {
    const cores = entriesOf(join(root, 'sys/devices/system/cpu')).filter((path) => /\/cpu\d+$/.test(path));
    this.clocks = cores
      .map((core) => join(core, 'cpufreq/scaling_cur_freq'))
      .filter((file) => numbersIn([file]).length > 0);
    const cpuinfo = join(root, 'proc/cpuinfo');
    // A guest is told the clock that its processor was sold with, whatever it runs at.
    this.cpuinfo =
      this.clocks.length === 0 && !/^flags\s*:.*\bhypervisor\b/m.test(textOf(cpuinfo) ?? '') ? cpuinfo : null;
    const drivers = entriesOf(join(root, 'sys/class/hwmon'))
      .filter((driver) => processorSensors.test(textOf(join(driver, 'name')) ?? ''))
      .flatMap((driver) => entriesOf(driver).filter((file) => /\/temp\d+_input$/.test(file)));
    const thermal = entriesOf(join(root, 'sys/class/thermal'));
    const typed = (folder: RegExp, type: RegExp, file: string) =>
      thermal
        .filter((path) => folder.test(path) && type.test(textOf(join(path, 'type')) ?? ''))
        .map((path) => join(path, file));
    this.temperatures = drivers.length > 0 ? drivers : typed(/\/thermal_zone\d+$/, processorZones, 'temp');
    this.throttleCounts = cores
      .flatMap((core) =>
        ['core_throttle_count', 'package_throttle_count'].map((name) => join(core, 'thermal_throttle', name)),
      )
      .filter((file) => numbersIn([file]).length > 0);
    this.cooling = typed(/\/cooling_device\d+$/, processorCooling, 'cur_state').filter(
      (file) => numbersIn([file]).length > 0,
    );
    this.counted = this.count();
  }

  /** What they tell now; of throttling, since the look before. */
  look(): SensorLook {
    const before = this.counted;
    this.counted = this.count();
    const clock = this.cpuinfo
      ? highest(
          [...(textOf(this.cpuinfo) ?? '').matchAll(/^cpu MHz\s*: ([\d.]+)$/gm)].map(
            ([, mhz]) => Number(mhz) * 1e3,
          ),
        )
      : highest(numbersIn(this.clocks));
    const temperature = highest(numbersIn(this.temperatures));
    return {
      clockGigahertz: clock ? clock / 1e6 : null,
      temperatureCelsius: temperature === null ? null : temperature / 1e3,
      throttled:
        this.throttleCounts.length + this.cooling.length === 0
          ? null
          : this.counted > before || numbersIn(this.cooling).some((state) => state > 0),
    };
  }

  private count(): number {
    return numbersIn(this.throttleCounts).reduce((sum, count) => sum + count, 0);
  }
}
