'use client';
import { percent } from '@/core/format';
import { flattenSlot } from '@/core/timeline/flatten';
import type { Timeline } from '@/core/timeline/model';
import { effectName } from '@/core/timeline/parts';
import { MiddleName } from '../parts/MiddleName';

/** What the slot under the playhead is made of: every layer with its exact source frame and its effects. */
export function SlotWork({
  timeline,
  slot,
  timecodeAt,
  onSelect,
}: {
  timeline: Timeline;
  slot: number;
  timecodeAt: (slot: number) => string;
  onSelect: (id: string) => void;
}) {
  const { layers, alongside } = flattenSlot(timeline, slot);
  return (
    <section aria-label="Work of this slot" className="min-w-0 text-sm">
      <h2 className="text-sm">
        Work of slot <span className="figure">{slot}</span>{' '}
        <span className="figure text-xs font-normal text-muted">{timecodeAt(slot)}</span>
      </h2>
      {layers.length === 0 && <p className="mt-1 text-muted">A gap: black, nothing is read.</p>}
      <ol className="mt-1 flex flex-col gap-1.5">
        {[...layers].reverse().map((layer) => (
          <li key={`${layer.item.id}-${layer.media ?? ''}`} className="border-l-2 border-edge pl-2">
            <button
              type="button"
              className="flex max-w-full text-left underline decoration-edge underline-offset-4"
              onClick={() => onSelect(layer.item.id)}
            >
              <MiddleName name={layer.item.name} />
            </button>
            <span className="block text-xs text-muted">
              {timeline.tracks[layer.trackIndex]?.name}
              {layer.media !== null && (
                <>
                  , source frame <span className="figure text-ink">{layer.frame}</span> of{' '}
                  {timeline.media[layer.media]?.frames}
                </>
              )}
              {layer.fade < 1 && <>, {percent(layer.fade, 0)} faded in</>}
              {layer.effects.length > 0 && (
                <>; {layer.effects.map((effect) => effectName(effect)).join(', ')}</>
              )}
            </span>
          </li>
        ))}
        {alongside.map(({ item, angle, media, frame }) => (
          <li
            key={`${item.id}-${angle}`}
            className="border-l-2 border-dashed border-edge pl-2 text-xs text-muted"
          >
            decoded alongside: angle {angle + 1}, {timeline.media[media]?.name}, frame{' '}
            <span className="figure">{frame}</span>
          </li>
        ))}
      </ol>
      <p className="mt-3 text-xs text-muted">Choose an item to set its speed, cross-fade and effects.</p>
    </section>
  );
}
