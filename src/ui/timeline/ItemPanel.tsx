'use client';
import { percent, quantity, upTo } from '@/core/format';
import { Download, X } from 'lucide-react';
import { useState } from 'react';
import { crossFade, setEffects, setSpeed, slip, switchAngle } from '@/core/timeline/edits';
import {
  endOf,
  fadeInSlots,
  findItem,
  type Effect,
  type EffectKind,
  type Item,
  type Timeline,
} from '@/core/timeline/model';
import { effectName } from '@/core/timeline/parts';
import { rational } from '@/core/time/rational';
import type { EditorPage } from '@/server/timelines/editor';
import { useSend } from '../useSend';
import { Button } from '../parts/Button';
import { FormError, inputLook, NumberField } from '../parts/Field';
import { MiddleName } from '../parts/MiddleName';
import { controls, freshEffects, newId, type Control } from './effects';
import type { Edit } from './useTimeline';
import { addressOf } from '../api';
import { Checkbox } from '../parts/Checkbox';
import { Select } from '../parts/Select';
import { Sortable, useSorted } from '../parts/Sortable';

export type LookList = readonly Pick<EditorPage['looks'][number], 'id' | 'name' | 'dimensions' | 'size'>[];

interface ItemPanelProps {
  readonly timeline: Timeline;
  readonly item: Item;
  readonly playhead: number;
  readonly looks: LookList;
  readonly onLooks: (looks: LookList) => void;
  readonly edit: Edit;
  readonly timecodeAt: (slot: number) => string;
}

/** What the chosen item is, and what works on its picture. */
export function ItemPanel(props: ItemPanelProps) {
  const { timeline, item, edit, timecodeAt } = props;
  const change: Change = (effects, what, merge) =>
    edit((document) => setEffects(document, item.id, effects), what, merge);
  const add = (kind: EffectKind) =>
    change(
      [...item.effects, { id: newId('e'), on: true, ...freshEffects[kind] }],
      `Add ${effectName({ kind })} to ${item.name}`,
    );
  return (
    <section aria-label="Chosen item" className="flex min-w-0 flex-col gap-2 text-sm">
      <div className="min-w-0">
        <h2 className="flex min-w-0">
          <MiddleName name={item.name} />
        </h2>
        <span className="figure whitespace-nowrap text-xs text-muted">
          {timecodeAt(item.start)} to {timecodeAt(endOf(item))}, {item.length} slots
        </span>
      </div>
      <SourceFields {...props} />
      <div className="flex items-center gap-2 border-t pt-2">
        <h3 className="text-xs text-muted">Effects, in their order</h3>
        <Select
          label="Add an effect"
          placeholder="Add an effect"
          value=""
          onChange={add}
          options={(Object.keys(freshEffects) as EffectKind[]).map((kind) => [kind, effectName({ kind })])}
          low
          className="ml-auto"
        />
      </div>
      {item.effects.length === 0 && (
        <p className="text-xs text-muted">None yet. What is added here is computed in every trial.</p>
      )}
      <Effects {...props} change={change} />
      {timeline.tracks.length > 0 && item.effects.length > 0 && (
        <Button
          look="quiet"
          className="h-8 self-start px-2 text-xs"
          onClick={() =>
            edit((document) => copyEffects(document, item), `Copy the effects of ${item.name} to its track`)
          }
        >
          Put these effects on every item of the track
        </Button>
      )}
    </section>
  );
}

type Change = (effects: readonly Effect[], what: string, merge?: string) => void;

/** The effects of the item, to set, order and remove. */
function Effects({ change, ...props }: ItemPanelProps & { readonly change: Change }) {
  const { item } = props;
  return (
    <Sortable
      ids={item.effects.map(({ id }) => id)}
      nameOf={(id) =>
        item.effects
          .filter((effect) => effect.id === id)
          .map(effectName)
          .join()
      }
      onMove={(_, from, to) => {
        const effects = [...item.effects];
        effects.splice(to, 0, ...effects.splice(from, 1));
        change(effects, `Move ${effectName(effects[to] as Effect)}`);
      }}
    >
      <ol aria-label="Effects" className="flex flex-col gap-2">
        {item.effects.map((effect) => (
          <EffectFields
            key={effect.id}
            effect={effect}
            props={props}
            onChange={(next, merge) =>
              change(
                item.effects.map((one) => (one.id === effect.id ? next : one)),
                `Set ${effectName(effect)} of ${item.name}`,
                merge,
              )
            }
            onRemove={() =>
              change(
                item.effects.filter((one) => one.id !== effect.id),
                `Remove ${effectName(effect)} from ${item.name}`,
              )
            }
          />
        ))}
      </ol>
    </Sortable>
  );
}

function copyEffects(timeline: Timeline, item: Item): Timeline {
  const found = findItem(timeline, item.id);
  if (!found) return timeline;
  return found.track.items.reduce(
    (document, other) =>
      other.id === item.id
        ? document
        : setEffects(
            document,
            other.id,
            item.effects.map((effect) => ({ ...effect, id: newId('e') })),
          ),
    timeline,
  );
}

type SourceProps<Kind extends Item['source']['kind']> = Pick<ItemPanelProps, 'timeline' | 'item' | 'edit'> & {
  readonly source: Extract<Item['source'], { kind: Kind }>;
};

/** Speed, source range, cross-fade and angle. */
function SourceFields({ timeline, item, edit, playhead }: ItemPanelProps) {
  const { source } = item;
  const of = { timeline, item, edit };
  return (
    <div className="flex flex-wrap items-end gap-3">
      {source.kind === 'clip' && <ClipFields {...of} source={source} />}
      <FadeField {...of} />
      {source.kind === 'angles' && <AngleFields {...of} source={source} playhead={playhead} />}
      {source.kind === 'still' && <StillFields {...of} source={source} />}
    </div>
  );
}

function ClipFields({ item, source, edit }: SourceProps<'clip'>) {
  const { speed } = source;
  return (
    <>
      <DraftNumber
        key={`speed-${item.id}`}
        label="Speed"
        unit="%"
        value={(speed.num / speed.den) * 100}
        onSet={(value) =>
          edit(
            (document) => setSpeed(document, item.id, rational(Math.round(value * 100), 10_000)),
            `Set the speed of ${item.name}`,
          )
        }
      />
      <DraftNumber
        key={`in-${item.id}`}
        label="First source frame"
        unit=""
        value={source.in}
        onSet={(value) =>
          edit(
            (document) =>
              slip(document, item.id, Math.round(((value - source.in) * speed.den) / Math.max(1, speed.num))),
            `Slip ${item.name}`,
          )
        }
      />
    </>
  );
}

/** Where an item follows another without a gap. */
function FadeField({ timeline, item, edit }: Omit<SourceProps<'clip'>, 'source'>) {
  const found = findItem(timeline, item.id);
  const before = found?.track.items[found.index - 1];
  if (!found || !before || endOf(before) < item.start) return null;
  return (
    <DraftNumber
      key={`fade-${item.id}`}
      label="Cross-fade in"
      unit="slots"
      value={fadeInSlots(found.track.items, found.index)}
      onSet={(value) =>
        edit(
          (document) => crossFade(document, item.id, Math.max(0, Math.round(value))),
          `Cross-fade into ${item.name}`,
        )
      }
    />
  );
}

function AngleFields({
  timeline,
  item,
  source,
  edit,
  playhead,
}: SourceProps<'angles'> & Pick<ItemPanelProps, 'playhead'>) {
  return (
    <>
      <label>
        <span className="mb-1 block text-xs text-muted">Angle from the playhead on</span>
        <Select
          label="Angle"
          placeholder="choose"
          value=""
          onChange={(index) =>
            edit(
              (document) => switchAngle(document, item.id, playhead, Number(index)),
              `Switch the angle of ${item.name}`,
            )
          }
          options={source.angles.map(({ media }, index) => [
            String(index),
            `${index + 1}: ${timeline.media[media]?.name}`,
          ])}
          className="w-full"
        />
      </label>
      <p className="w-full text-xs text-muted">
        {source.angles.length} angles are read and decoded side by side; {source.switches.length - 1}{' '}
        switches.
      </p>
    </>
  );
}

function StillFields({ timeline, item, source, edit }: SourceProps<'still'>) {
  const still = timeline.media[source.media];
  return (
    <>
      <p className="w-full text-xs text-muted">
        A still of {still?.width}x{still?.height}: the frame moves from {view(source.from)} to{' '}
        {view(source.to)}.
      </p>
      {(['from', 'to'] as const).map((end) => (
        <span key={end} className="flex gap-2">
          {(['x', 'y', 'width'] as const).map((key) => (
            <DraftNumber
              key={`${item.id}-${end}-${key}`}
              label={`${end === 'from' ? 'First' : 'Last'} ${key === 'x' ? 'left' : key === 'y' ? 'top' : 'size'}`}
              unit="%"
              value={source[end][key] * 100}
              onSet={(value) =>
                edit(
                  (document) => changeView(document, item.id, end, key, value / 100),
                  `Move the frame of ${item.name}`,
                )
              }
            />
          ))}
        </span>
      ))}
    </>
  );
}

const view = ({ x, y, width }: { x: number; y: number; width: number }) =>
  `${percent(width, 0)} at ${Math.round(x * 100)}, ${Math.round(y * 100)}`;

function changeView(
  timeline: Timeline,
  id: string,
  end: 'from' | 'to',
  key: 'x' | 'y' | 'width',
  value: number,
): Timeline {
  const clamped = Math.min(1, Math.max(key === 'width' ? 0.02 : 0, value));
  return {
    ...timeline,
    tracks: timeline.tracks.map((track) => ({
      ...track,
      items: track.items.map((item) => {
        if (item.id !== id || item.source.kind !== 'still') return item;
        const rect = { ...item.source[end], [key]: clamped, ...(key === 'width' ? { height: clamped } : {}) };
        return {
          ...item,
          source: {
            ...item.source,
            [end]: { ...rect, x: Math.min(rect.x, 1 - rect.width), y: Math.min(rect.y, 1 - rect.height) },
          },
        };
      }),
    })),
  };
}

/** A figure that takes effect on Enter or when left; nothing typed is lost before. */
function DraftNumber({
  label,
  unit,
  value,
  onSet,
}: {
  label: string;
  unit: string;
  value: number;
  onSet: (value: number) => void;
}) {
  const [typed, setTyped] = useState<string | null>(null);
  const invalid = typed !== null && (typed.trim() === '' || !Number.isFinite(Number(typed)));
  const settle = () => {
    if (typed !== null && !invalid && Number(typed) !== value) onSet(Number(typed));
    if (!invalid) setTyped(null);
  };
  return (
    <span
      onBlur={settle}
      onKeyDown={(event) => {
        if (event.key === 'Enter') settle();
      }}
    >
      <NumberField
        label={label}
        unit={unit}
        value={typed ?? upTo(value, 2)}
        onChange={setTyped}
        invalid={invalid}
        className="block w-24"
      />
    </span>
  );
}

interface EffectFieldsProps {
  readonly effect: Effect;
  readonly props: ItemPanelProps;
  readonly onChange: (effect: Effect, merge?: string) => void;
  readonly onRemove: () => void;
}

function EffectFields({ effect, props, onChange, onRemove }: EffectFieldsProps) {
  const name = effectName(effect);
  const { ref, style, grip } = useSorted(effect.id, name);
  const quiet = 'px-1 text-muted hover:text-ink disabled:opacity-30';
  return (
    <li ref={ref} style={style} aria-label={name} className="border bg-ground p-2">
      <div className="flex items-center gap-1">
        {grip}
        <label className="flex items-center gap-2">
          <Checkbox label={`${name} on`} checked={effect.on} onChange={(on) => onChange({ ...effect, on })} />
          <span className={effect.on ? 'font-semibold' : 'text-muted'}>{name}</span>
        </label>
        <span className="ml-auto" />
        <button type="button" aria-label={`Remove ${name}`} className={quiet} onClick={onRemove}>
          <X aria-hidden className="size-4" />
        </button>
      </div>
      {effect.kind === 'lut' && (
        <LookFields effect={effect} looks={props.looks} onLooks={props.onLooks} onChange={onChange} />
      )}
      {effect.kind === 'title' && (
        <input
          aria-label="Title text"
          value={effect.text}
          onChange={(event) => onChange({ ...effect, text: event.target.value }, `text-${effect.id}`)}
          className={`mt-1 ${inputLook}`}
        />
      )}
      <div className="mt-1 grid grid-cols-[max-content_1fr_max-content] items-center gap-x-2">
        {controls[effect.kind].map((control) => (
          <Slider key={control.label} control={control} effect={effect} onChange={onChange} />
        ))}
      </div>
    </li>
  );
}

function Slider({
  control,
  effect,
  onChange,
}: {
  control: Control;
  effect: Effect;
  onChange: EffectFieldsProps['onChange'];
}) {
  const value = control.get(effect);
  return (
    <>
      <span className="text-xs text-muted">{control.label}</span>
      <input
        type="range"
        aria-label={control.label}
        aria-valuetext={quantity(upTo(value * control.factor, 2), control.unit)}
        min={control.least}
        max={control.most}
        step={control.step}
        value={value}
        onChange={(event) =>
          onChange(control.set(effect, Number(event.target.value)), `${control.label}-${effect.id}`)
        }
        className="h-6 min-w-0 accent-[var(--edge)]"
      />
      <span className="figure min-w-14 text-right text-xs">
        {upTo(value * control.factor, 2)}
        {control.unit && `\u202f${control.unit}`}
      </span>
    </>
  );
}

type LutEffect = Extract<Effect, { kind: 'lut' }>;

function LookFields({
  effect,
  looks,
  onLooks,
  onChange,
}: {
  effect: LutEffect;
  looks: LookList;
  onLooks: (looks: LookList) => void;
  onChange: EffectFieldsProps['onChange'];
}) {
  const { error, send } = useSend();
  const load = async (file: File | undefined) => {
    if (!file) return;
    const added = await send('POST /api/looks', {
      body: {
        name: file.name,
        text: await file.text(),
      },
    });
    if (!added) return;
    onLooks([...looks, added]);
    onChange({ ...effect, lookId: added.id, name: added.name });
  };
  return (
    <div className="mt-1 flex flex-wrap items-center gap-2">
      <Select
        label="Look"
        value={effect.lookId ?? ''}
        onChange={(id) =>
          onChange({ ...effect, lookId: id || null, name: looks.find((look) => look.id === id)?.name ?? '' })
        }
        options={[
          ['', 'no look chosen'],
          ...looks.map(
            ({ id, name, dimensions, size }) => [id, `${name} (${dimensions}D, ${size})`] as const,
          ),
        ]}
        low
        className="flex-1"
      />
      <label className="cursor-pointer border border-edge px-2 py-1 text-xs focus-within:outline-2">
        Load .cube
        <input
          type="file"
          accept=".cube"
          aria-label="Load a .cube file"
          className="sr-only"
          onChange={(event) => {
            void load(event.target.files?.[0]);
            event.target.value = '';
          }}
        />
      </label>
      {effect.lookId && (
        <a
          href={addressOf('GET /api/looks/{id}', { ids: { id: effect.lookId } })}
          aria-label="Save this look as .cube"
          title="Save this look as .cube"
          className="text-muted hover:text-ink"
        >
          <Download aria-hidden className="size-4" />
        </a>
      )}
      <FormError message={error?.message} />
    </div>
  );
}
