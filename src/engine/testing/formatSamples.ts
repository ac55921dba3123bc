import type { TestMedia } from './testMedia';

/** Codec, depth, chroma, profile and whether every frame is a key frame, for each encoder of the library that this trade uses. */
export const formatSamples: readonly (readonly [string, string, TestMedia, object])[] = [
  [
    'ProRes Proxy',
    'mov',
    { encoder: 'prores_aw', pixelFormat: 'yuv422p10le', options: { profile: '0' } },
    { codec: 'ProRes', profile: 'Proxy', bitDepth: 10, chroma: '4:2:2', intra: true },
  ],
  [
    'ProRes HQ',
    'mov',
    { encoder: 'prores_aw', pixelFormat: 'yuv422p10le', options: { profile: '3' } },
    { codec: 'ProRes', profile: 'HQ', bitDepth: 10, chroma: '4:2:2', intra: true },
  ],
  [
    'ProRes 4444, 12 bits with alpha',
    'mov',
    {
      encoder: 'prores_ks',
      pixelFormat: 'yuva444p10le',
      options: { profile: '4', alpha_bits: '16' },
      frames: 6,
    },
    { codec: 'ProRes', profile: '4444', bitDepth: 12, chroma: '4:4:4', intra: true, alpha: true },
  ],
  [
    'DNxHR 8-bit',
    'mov',
    { encoder: 'dnxhd', pixelFormat: 'yuv422p', width: 256, height: 128, options: { profile: 'dnxhr_sq' } },
    { codec: 'DNxHD/HR', bitDepth: 8, chroma: '4:2:2', intra: true },
  ],
  [
    'DNxHR 10-bit in MXF',
    'mxf',
    {
      encoder: 'dnxhd',
      pixelFormat: 'yuv422p10le',
      width: 256,
      height: 128,
      options: { profile: 'dnxhr_hqx' },
    },
    { codec: 'DNxHD/HR', container: 'MXF', bitDepth: 10, chroma: '4:2:2', intra: true },
  ],
  [
    'CineForm',
    'mov',
    { encoder: 'cfhd', pixelFormat: 'yuv422p10le' },
    { codec: 'CineForm', bitDepth: 10, chroma: '4:2:2', intra: true },
  ],
  [
    'Motion JPEG 4:2:0',
    'mov',
    { encoder: 'mjpeg', pixelFormat: 'yuvj420p' },
    { codec: 'Motion JPEG', bitDepth: 8, chroma: '4:2:0', intra: true },
  ],
  [
    'Motion JPEG 4:4:4 in AVI',
    'avi',
    { encoder: 'mjpeg', pixelFormat: 'yuvj444p' },
    { codec: 'Motion JPEG', container: 'AVI', bitDepth: 8, chroma: '4:4:4', intra: true },
  ],
  [
    'JPEG 2000',
    'mov',
    { encoder: 'jpeg2000', pixelFormat: 'yuv422p10le', frames: 6 },
    { codec: 'JPEG 2000', bitDepth: 10, chroma: '4:2:2', intra: true },
  ],
  [
    'FFV1',
    'mkv',
    { encoder: 'ffv1', pixelFormat: 'yuv422p10le', gop: 1 },
    { codec: 'FFV1', container: 'Matroska', bitDepth: 10, chroma: '4:2:2' },
  ],
  [
    'Uncompressed v210',
    'mov',
    { encoder: 'v210', pixelFormat: 'yuv422p10le' },
    { codec: 'Uncompressed v210', bitDepth: 10, chroma: '4:2:2', intra: true },
  ],
  [
    'H.264 8-bit 4:2:0',
    'mp4',
    { encoder: 'libx264', pixelFormat: 'yuv420p', bFrames: 2, options: { preset: 'ultrafast' } },
    { codec: 'H.264', bitDepth: 8, chroma: '4:2:0', intra: false },
  ],
  [
    'H.264 10-bit 4:2:2 intra',
    'mov',
    { encoder: 'libx264', pixelFormat: 'yuv422p10le', gop: 1, options: { preset: 'ultrafast' } },
    { codec: 'H.264', bitDepth: 10, chroma: '4:2:2', intra: true },
  ],
  [
    'HEVC 10-bit 4:2:0',
    'mp4',
    {
      encoder: 'libx265',
      pixelFormat: 'yuv420p10le',
      options: { preset: 'ultrafast', 'x265-params': 'log-level=none' },
    },
    { codec: 'HEVC', profile: 'Main 10', bitDepth: 10, chroma: '4:2:0', intra: false },
  ],
  [
    'HEVC 12-bit 4:4:4',
    'mp4',
    {
      encoder: 'libx265',
      pixelFormat: 'yuv444p12le',
      options: { preset: 'ultrafast', 'x265-params': 'log-level=none' },
    },
    { codec: 'HEVC', bitDepth: 12, chroma: '4:4:4', intra: false },
  ],
  [
    'AV1 10-bit',
    'mp4',
    { encoder: 'libsvtav1', pixelFormat: 'yuv420p10le', options: { preset: '12' }, frames: 12 },
    { codec: 'AV1', bitDepth: 10, chroma: '4:2:0', intra: false },
  ],
  [
    'VP9',
    'webm',
    { encoder: 'libvpx-vp9', pixelFormat: 'yuv420p', options: { deadline: 'realtime', 'cpu-used': '8' } },
    { codec: 'VP9', container: 'Matroska', bitDepth: 8, chroma: '4:2:0', intra: false },
  ],
  [
    'MPEG-2 4:2:2 in MXF',
    'mxf',
    { encoder: 'mpeg2video', pixelFormat: 'yuv422p', width: 720, height: 576, gop: 12, bFrames: 2 },
    { codec: 'MPEG-2', container: 'MXF', bitDepth: 8, chroma: '4:2:2', intra: false },
  ],
  [
    'raw DV, whose mean rate comes out as its clock',
    'dv',
    { encoder: 'dvvideo', pixelFormat: 'yuv420p', width: 720, height: 576, rate: [25, 1] },
    { codec: 'DV', bitDepth: 8, chroma: '4:2:0', intra: true, rate: { num: 25, den: 1 } },
  ],
  [
    'MPEG-4 part 2',
    'mp4',
    { encoder: 'mpeg4', pixelFormat: 'yuv420p', bFrames: 1 },
    { codec: 'MPEG-4 Part 2', bitDepth: 8, chroma: '4:2:0', intra: false },
  ],
  [
    'H.264 of a card camera',
    'm2ts',
    { encoder: 'libx264', pixelFormat: 'yuv420p', bFrames: 2, audio: true, options: { preset: 'ultrafast' } },
    { codec: 'H.264', container: 'MPEG-TS', bitDepth: 8, chroma: '4:2:0', intra: false },
  ],
  [
    'HEVC 10-bit in a transport stream',
    'ts',
    {
      encoder: 'libx265',
      pixelFormat: 'yuv420p10le',
      options: { preset: 'ultrafast', 'x265-params': 'log-level=none' },
    },
    { codec: 'HEVC', container: 'MPEG-TS', bitDepth: 10, chroma: '4:2:0', intra: false },
  ],
  [
    'MPEG-2 of a tape camera',
    'ts',
    { encoder: 'mpeg2video', pixelFormat: 'yuv420p', width: 352, height: 288, bFrames: 2 },
    { codec: 'MPEG-2', container: 'MPEG-TS', bitDepth: 8, chroma: '4:2:0', intra: false },
  ],
  [
    'MPEG-2 of a disc camera',
    'vob',
    { encoder: 'mpeg2video', pixelFormat: 'yuv420p', width: 352, height: 288, bFrames: 2 },
    { codec: 'MPEG-2', container: 'MPEG-PS', bitDepth: 8, chroma: '4:2:0', intra: false },
  ],
];

/** Pictures that may be a clip frame by frame: their ending, how they are made, and what they are known for. */
export const pictureSamples: readonly (readonly [string, TestMedia, object])[] = [
  ['dpx', { encoder: 'dpx', pixelFormat: 'gbrp10le' }, { codec: 'DPX', bitDepth: 10, chroma: 'RGB' }],
  [
    'exr',
    { encoder: 'exr', pixelFormat: 'gbrpf32le' },
    { codec: 'OpenEXR', bitDepth: 32, chroma: 'RGB float' },
  ],
  ['tif', { encoder: 'tiff', pixelFormat: 'rgb48le' }, { codec: 'TIFF', bitDepth: 16, chroma: 'RGB' }],
  ['png', { encoder: 'png', pixelFormat: 'rgb24' }, { codec: 'PNG', bitDepth: 8, chroma: 'RGB' }],
  ['jpg', { encoder: 'mjpeg', pixelFormat: 'yuvj422p' }, { codec: 'JPEG', bitDepth: 8, chroma: '4:2:2' }],
  [
    'j2k',
    { encoder: 'jpeg2000', pixelFormat: 'yuv422p10le' },
    { codec: 'JPEG 2000', bitDepth: 10, chroma: '4:2:2' },
  ],
];
