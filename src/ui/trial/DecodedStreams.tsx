import { count, percent } from '@/core/format';
import { drewByDevice, fellBack, type DecodedStream, type Decoding } from '@/core/decode/decoding';
import { Simulated } from '../parts/Simulated';

const head = 'px-3 py-1.5 font-normal';
const cell = 'px-3 py-1.5';

/** Which device drew which streams, and what fell back to software without reporting it. Nothing of a run by software alone. */
export function DecodedStreams({
  decoding = [],
  streams,
}: {
  decoding: Decoding | undefined;
  streams: readonly DecodedStream[] | undefined;
}) {
  if (decoding.length === 0 || !streams) return null;
  const drawn = drewByDevice(decoding, streams);
  const fallen = drawn.flatMap((one) => one.fallen);
  const scaling = decoding.some(({ frames }) => frames === 'scaled');
  return (
    <section aria-label="Decoding">
      <h2>What decoded it</h2>
      {fallen.length > 0 && (
        <p role="note" className="mt-2 border-l-4 border-signal pl-3 text-sm">
          {count(fallen.length)} of {count(streams.length)} {streams.length === 1 ? 'stream' : 'streams'} fell
          back to software, which the device did not report: {namesOf(fallen)}. What this run took is not the
          device’s alone.
        </p>
      )}
      <ByDevice drawn={drawn} scaling={scaling} />
      {scaling && (
        <p className="mt-2 max-w-3xl text-sm text-muted">
          What is not scaled there comes to memory whole: pictures that are shown as large as they are, or of
          which parts are cut out, and all of a device without a scaler.
        </p>
      )}
      <EachStream decoding={decoding} streams={streams} />
    </section>
  );
}

function ByDevice({ drawn, scaling }: { drawn: ReturnType<typeof drewByDevice>; scaling: boolean }) {
  return (
    <table
      aria-label="Streams by device"
      className="mt-2 w-full max-w-3xl border-collapse border bg-surface text-sm"
    >
      <thead>
        <tr className="border-b text-left text-xs text-muted">
          <th scope="col" className={head}>
            Device
          </th>
          <th scope="col" className={`${head} text-right`}>
            Share asked
          </th>
          <th scope="col" className={`${head} text-right`}>
            Streams
          </th>
          <th scope="col" className={`${head} text-right`}>
            Frames
          </th>
          <th scope="col" className={`${head} text-right`}>
            Part of all
          </th>
          <th scope="col" className={`${head} text-right`}>
            From the device
          </th>
          {scaling && (
            <th scope="col" className={`${head} text-right`}>
              Scaled there
            </th>
          )}
        </tr>
      </thead>
      <tbody>
        {drawn.map(({ use, streams: of, frames, onDevice, scaled, part }) => (
          <tr key={use.deviceId} className="border-b last:border-b-0">
            <td className={cell}>
              <span className="mr-2">{use.name}</span>
              {use.simulated && <Simulated />}
            </td>
            <td className={`figure ${cell} text-right`}>{use.share}</td>
            <td className={`figure ${cell} text-right`}>{count(of)}</td>
            <td className={`figure ${cell} text-right`}>{count(frames)}</td>
            <td className={`figure ${cell} text-right`}>{percent(part, 0)}</td>
            <td className={`figure ${cell} text-right`}>
              {use.deviceId === 'software' ? '–' : count(onDevice)}
            </td>
            {scaling && (
              <td className={`figure ${cell} text-right`}>{use.frames === 'scaled' ? count(scaled) : '–'}</td>
            )}
          </tr>
        ))}
      </tbody>
    </table>
  );
}

function EachStream({ decoding, streams }: { decoding: Decoding; streams: readonly DecodedStream[] }) {
  return (
    <details className="mt-2">
      <summary className="w-fit text-sm text-muted hover:text-ink">Each stream</summary>
      <div className="mt-2 max-h-80 max-w-3xl overflow-y-auto border">
        <table aria-label="Each stream" className="w-full border-collapse bg-surface text-sm">
          <thead>
            <tr className="border-b text-left text-xs text-muted">
              <th scope="col" className={head}>
                Item
              </th>
              <th scope="col" className={`${head} text-right`}>
                Track
              </th>
              <th scope="col" className={head}>
                Clip
              </th>
              <th scope="col" className={head}>
                Given to
              </th>
              <th scope="col" className={head}>
                Decoded by
              </th>
              <th scope="col" className={`${head} text-right`}>
                Frames
              </th>
            </tr>
          </thead>
          <tbody>
            {streams.map((stream, at) => (
              <tr key={at} className="border-b last:border-b-0">
                <td className={cell}>{stream.item || '–'}</td>
                <td className={`figure ${cell} text-right`}>{stream.track + 1}</td>
                <td className={cell}>{stream.clip || '–'}</td>
                <td className={cell}>{decoding[stream.device]?.name}</td>
                <td className={cell}>
                  {stream.decoder}
                  {fellBack(stream, decoding[stream.device]) &&
                    (stream.onDevice === 0
                      ? ', fell back'
                      : `, ${count(stream.frames - stream.onDevice)} frames fell back`)}
                </td>
                <td className={`figure ${cell} text-right`}>{count(stream.frames)}</td>
              </tr>
            ))}
          </tbody>
        </table>
      </div>
    </details>
  );
}

const mostNamed = 3;

/** "TW_WALL_0107.mov, TW_KITE_0031.mp4 and 4 more". */
function namesOf(streams: readonly DecodedStream[]): string {
  const names = [...new Set(streams.map(({ item, clip }) => clip || item || 'the clip'))];
  const more = names.length - mostNamed;
  return `${names.slice(0, mostNamed).join(', ')}${more > 0 ? ` and ${count(more)} more` : ''}`;
}
