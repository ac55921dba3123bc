import { AV_BUFFERSRC_FLAG_KEEP_REF } from 'node-av/constants';
import {
  Filter,
  FilterGraph,
  Frame,
  Rational,
  type FilterContext,
  type HardwareDeviceContext,
} from 'node-av/lib';
import type { Raster } from '@/core/timeline/deviceRaster';

/** The codec library's filter that scales pictures where they lie on a device, by the device's kind. Each gives a picture for a picture, at once; one that waits for the next does not serve. */
const scalers: Readonly<Record<string, string>> = {
  vaapi: 'scale_vaapi',
  cuda: 'scale_cuda',
  qsv: 'vpp_qsv',
  opencl: 'scale_opencl',
  videotoolbox: 'scale_vt',
};

/** Scales a device's pictures there, and brings the smaller ones to memory. */
export class DeviceScaler {
  private constructor(
    private readonly graph: FilterGraph,
    private readonly input: FilterContext,
    private readonly output: FilterContext,
  ) {}

  /**
   * @param device open, with its kind as the codec library names it
   * @param picture the first one, as it lies on the device: all others are like it
   * @returns null where the library has no such filter for the device, or the device refuses it
   */
  static async open(
    { name, context }: { readonly name: string; readonly context: HardwareDeviceContext },
    picture: Frame,
    { width, height }: Raster,
  ): Promise<DeviceScaler | null> {
    const scaler = scalers[name];
    const frames = picture.hwFramesCtx;
    if (scaler === undefined || !frames) return null;
    const graph = new FilterGraph();
    graph.alloc();
    try {
      const input = allocated(graph, 'buffer');
      succeeds(
        input.buffersrcParametersSet({
          width: picture.width,
          height: picture.height,
          format: picture.format,
          timeBase: new Rational(1, 25),
          hwFramesCtx: frames,
        }),
      );
      succeeds(input.initStr(null));
      const scale = allocated(graph, scaler);
      scale.hwDeviceCtx = context;
      succeeds(scale.initStr(`w=${width}:h=${height}`));
      const rest = [
        graph.createFilter(known('hwdownload'), 'download'),
        // In memory it comes as it lay on the device.
        graph.createFilter(known('format'), 'format', `pix_fmts=${frames.swFormat}`),
        graph.createFilter(known('buffersink'), 'out'),
      ];
      const output = [scale, ...rest].reduce<FilterContext>((before, next) => {
        if (!next) throw new RangeError('A filter is missing.');
        succeeds(before.link(0, next, 0));
        return next;
      }, input);
      succeeds(await graph.config());
      return new DeviceScaler(graph, input, output);
    } catch {
      // It comes whole instead, and the result says so.
      graph.free();
      return null;
    }
  }

  /** One picture, scaled and in memory, which the caller frees; null where the device did not do it. The device's own stays the caller's. */
  async scaled(onDevice: Frame): Promise<Frame | null> {
    const here = new Frame();
    here.alloc();
    let code = await this.input.buffersrcAddFrame(onDevice, AV_BUFFERSRC_FLAG_KEEP_REF);
    if (code >= 0) code = await this.output.buffersinkGetFrame(here);
    // Another picture than the one that was handed over would be shown as it.
    if (code >= 0 && here.pts === onDevice.pts) return here;
    here.free();
    return null;
  }

  free(): void {
    this.graph.free();
  }
}

function known(name: string): Filter {
  const filter = Filter.getByName(name);
  if (!filter) throw new RangeError(`The codec library has no filter ${name}.`);
  return filter;
}

function allocated(graph: FilterGraph, name: string): FilterContext {
  const context = graph.allocFilter(known(name), name);
  if (!context) throw new RangeError(`The filter ${name} was not made.`);
  return context;
}

/** @throws where the codec library refused */
function succeeds(code: number): void {
  if (code < 0) throw new RangeError(`The codec library answered ${code}.`);
}
