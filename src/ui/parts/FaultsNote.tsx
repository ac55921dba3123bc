import { faultWords, type RunFaults } from '@/core/media/faults';

/** What a run met of frames that are not whole, clip by clip. @param placeOf a frame's timecode; without it frames are told by their number */
export function FaultsNote({
  faults,
  placeOf = (frame) => `frame ${frame}`,
}: {
  faults: RunFaults | undefined;
  placeOf?: ((frame: number) => string) | undefined;
}) {
  const lines = (faults?.clips ?? []).flatMap(({ media, name, faults: found }) =>
    faultWords(found, placeOf).map(({ kind, text }) => ({ key: `${media} ${kind}`, name, text })),
  );
  if (lines.length === 0) return null;
  return (
    <section aria-label="Frames that are not whole">
      <h2>Frames that are not whole</h2>
      <ul className="mt-2 flex max-w-3xl flex-col gap-2">
        {lines.map(({ key, name, text }) => (
          <li key={key} className="border-l-4 border-media pl-3 text-sm">
            {name !== '' && <b className="font-semibold">{name}. </b>}
            {text}
          </li>
        ))}
      </ul>
    </section>
  );
}
