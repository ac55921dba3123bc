import {
  addMarker,
  addTrack,
  crossFade,
  moveItems,
  removeItems,
  removeMarker,
  rippleDelete,
  splitAt,
  trimEnd,
  trimStart,
} from '@/core/timeline/edits';
import { endOf, findItem, type Item, type Timeline } from '@/core/timeline/model';
import { commandsUnder, type Command } from '../keys/commands';
import { newId } from './effects';
import type { Edit } from './useTimeline';

/** What the editor's keys work on, as it is when they are pressed. */
export interface EditingState {
  readonly timeline: Timeline;
  readonly selected: ReadonlySet<string>;
  readonly onSelect: (ids: ReadonlySet<string>) => void;
  readonly slot: number;
  readonly moveTo: (slot: number, slots?: number) => void;
  /** Index of the track that receives what is inserted. */
  readonly track: number;
  readonly onTrack: (index: number) => void;
}

type Now = () => EditingState;

const fadeSlots = 12;

const command = commandsUnder('Edit');

/** Ids of what the keys work on: what is chosen, or what lies under the playhead on the active track. */
function targetsOf({ selected, timeline, track, slot }: EditingState): ReadonlySet<string> {
  if (selected.size > 0) return selected;
  const under = timeline.tracks[track]?.items.find((item) => item.start <= slot && slot < endOf(item));
  return new Set(under ? [under.id] : []);
}

/** The first of them. */
function targetOf(state: EditingState): Item | null {
  const [id] = targetsOf(state);
  return id === undefined ? null : (findItem(state.timeline, id)?.item ?? null);
}

/** Splits, removes and trims. */
function cutting(now: Now, edit: Edit): readonly Command[] {
  const on = (what: string, change: (timeline: Timeline, ids: ReadonlySet<string>) => Timeline) => () => {
    const ids = targetsOf(now());
    if (ids.size > 0) edit((timeline) => change(timeline, ids), what);
  };
  const trim = (what: string, change: (timeline: Timeline, item: Item, slot: number) => Timeline) => () => {
    const item = targetOf(now());
    const { slot } = now();
    if (item) edit((timeline) => change(timeline, item, slot), `${what} of ${item.name}`);
  };
  const split = () => {
    const { timeline, selected, slot } = now();
    const ids = new Set(
      timeline.tracks
        .filter(({ items }) => selected.size === 0 || items.some(({ id }) => selected.has(id)))
        .map(({ id }) => id),
    );
    edit((document) => splitAt(document, slot, ids), 'Split');
  };
  return [
    command('split', 'Split at the playhead', 's', split),
    command('delete', 'Remove and leave a gap', 'Delete', on('Remove', removeItems)),
    command('ripple-delete', 'Remove and close up', 'Shift+Delete', on('Remove and close up', rippleDelete)),
    command(
      'trim-start',
      'Trim the start to the playhead',
      '[',
      trim('Trim the start', (timeline, { id, start }, slot) => trimStart(timeline, id, slot - start)),
    ),
    command(
      'trim-end',
      'Trim the end to the playhead',
      ']',
      trim('Trim the end', (timeline, item, slot) => trimEnd(timeline, item.id, slot + 1 - endOf(item))),
    ),
  ];
}

/** Moves items in time and between tracks, and fades into them. */
function moving(now: Now, edit: Edit): readonly Command[] {
  const by = (what: string, slots: number, tracks: number, merge?: string) => () => {
    const ids = targetsOf(now());
    if (ids.size > 0) edit((timeline) => moveItems(timeline, ids, slots, tracks), what, merge);
  };
  const toPlayhead = () => {
    const state = now();
    const item = targetOf(state);
    if (item)
      edit(
        (timeline) => moveItems(timeline, targetsOf(state), state.slot - item.start, 0),
        'Move to the playhead',
      );
  };
  const fade = () => {
    const item = targetOf(now());
    const found = item && findItem(now().timeline, item.id);
    const before = found?.track.items[found.index - 1];
    if (item && before)
      edit(
        (timeline) => crossFade(timeline, item.id, endOf(before) > item.start ? 0 : fadeSlots),
        `Cross-fade into ${item.name}`,
      );
  };
  return [
    command('nudge-on', 'Move one slot forward', '.', by('Move', 1, 0, 'nudge')),
    command('nudge-back', 'Move one slot back', ',', by('Move', -1, 0, 'nudge')),
    command('to-playhead', 'Move to the playhead', 'h', toPlayhead),
    command('track-up', 'Move one track up', 'Shift+ArrowUp', by('Move a track up', 0, 1)),
    command('track-down', 'Move one track down', 'Shift+ArrowDown', by('Move a track down', 0, -1)),
    command('fade', 'Cross-fade into the item, or back to a cut', 'x', fade),
  ];
}

/** Titles, markers and tracks. */
function adding(now: Now, edit: Edit, addTitle: () => void): readonly Command[] {
  const mark = () => {
    const { timeline, slot } = now();
    const there = timeline.markers.find(({ at }) => at === slot);
    const name = `Marker ${timeline.markers.length + 1}`;
    edit(
      (document) =>
        there ? removeMarker(document, there.id) : addMarker(document, { id: newId('k'), at: slot, name }),
      there ? 'Clear a marker' : 'Set a marker',
    );
  };
  return [
    command('title', 'Insert a title', 'Shift+W', addTitle),
    command('marker', 'Set or clear a marker', 'm', mark),
    command('add-track', 'Add a track on top', 'Shift+A', () =>
      edit((timeline) => addTrack(timeline, newId('v'), `V${timeline.tracks.length + 1}`), 'Add a track'),
    ),
  ];
}

/** What is chosen, and which track is active. */
function choosing(now: Now): readonly Command[] {
  const step = (direction: 1 | -1) => () => {
    const { timeline, track, selected, slot, onSelect, moveTo } = now();
    const items = timeline.tracks[track]?.items ?? [];
    const at = items.findIndex(({ id }) => selected.has(id));
    const next = at < 0 ? items.find((item) => endOf(item) > slot) : items[at + direction];
    if (!next) return;
    onSelect(new Set([next.id]));
    moveTo(next.start);
  };
  const activate = (by: 1 | -1) => () => {
    const { timeline, track, onTrack } = now();
    onTrack(Math.min(timeline.tracks.length - 1, Math.max(0, track + by)));
  };
  const all = () => {
    const { timeline, onSelect } = now();
    onSelect(new Set(timeline.tracks.flatMap(({ items }) => items.map(({ id }) => id))));
  };
  return [
    command('next-item', 'Choose the next item', 'n', step(1)),
    command('previous-item', 'Choose the previous item', 'p', step(-1)),
    command('choose-all', 'Choose all items', 'Ctrl+a', all),
    command('choose-none', 'Choose nothing', 'Escape', () => now().onSelect(new Set())),
    command('active-up', 'Activate the track above', 'PageUp', activate(1)),
    command('active-down', 'Activate the track below', 'PageDown', activate(-1)),
  ];
}

/** All edits that have a key. @param now what they work on, asked when a key is pressed */
export function editCommands(now: Now, edit: Edit, addTitle: () => void): readonly Command[] {
  return [...cutting(now, edit), ...moving(now, edit), ...adding(now, edit, addTitle), ...choosing(now)];
}
