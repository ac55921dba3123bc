import type { Words } from '@/core/failure';
import { quantity } from '@/core/format';
import { folderLeadsOut } from '@/core/media/folder';

type Of<Names extends string> = Readonly<Record<Names, string | number>>;

/** What the server refuses, by its code: the status of HTTP, and what people are told, with what to do. */
export const refusals = {
  // Of any request.
  'database-down': [
    503,
    'The database does not answer. Trials that run go on and are saved when it is back. Look at the terminal where Navvy was started; ./navvy start starts it again.',
  ],
  'timeline-unsound': [
    400,
    ({ problem }: { readonly problem: string }) => `The timeline is not valid: ${problem}`,
  ],
  'no-longer-there': [409, 'Something that this stands on is no longer there. Reload the page.'],
  'value-out-of-form': [400, 'A value cannot be kept as it was sent: it is too large or malformed.'],
  'failed-inside': [500, 'Something failed inside Navvy. The server log has the detail.'],

  'no-such-result': [404, 'There is no result with this address. It may have been removed.'],
  'no-such-brief': [404, 'There is no brief with this address. It may have been removed.'],
  'camera-clip-gone': [
    409,
    ({ name }: Of<'name'>) =>
      `The clip of ${name} is no longer in the library, or was not read fully. Choose another.`,
  ],
  'no-cell-unknown': [409, 'No cell of this rig is unknown, or all that are wait already.'],
  'nothing-measured': [409, ({ reasons }: { readonly reasons: string }) => reasons],
  'brief-clip-not-read': [409, 'A clip of this brief was not read fully. Scan its volume again.'],
  'no-such-rig': [404, 'There is no such rig.'],
  'bundle-unsound': [400, ({ problem }: { readonly problem: string }) => problem],
  'bundle-data-cut': [
    400,
    ({ place }: Of<'place'>) =>
      `${place}.data does not unpack to as many rows as it says. The file may be cut off or changed; export it again.`,
  ],
  'own-rig': [409, 'This is the rig itself. Remove its trials one by one.'],
  'no-such-imported-rig': [404, 'There is no imported rig with this address.'],
  'no-such-camera-format': [404, 'There is no such camera format. It may have been removed.'],
  'no-such-side': [
    404,
    ({ token }: Of<'token'>) =>
      `"${token}" names neither a trial nor a series. Choose what to compare again.`,
  ],
  'compared-trial-gone': [
    404,
    ({ id }: Of<'id'>) => `There is no trial ${id} any more. Take it out of the comparison.`,
  ],
  'compared-plan-gone': [
    404,
    ({ planId }: Of<'planId'>) =>
      `There is no series or matrix ${planId} any more. Choose what to compare again.`,
  ],
  'too-many-sides': [
    400,
    ({ sides, most }: Of<'sides' | 'most'>) =>
      `That makes ${sides} sides; at most ${most} are readable. Choose fewer.`,
  ],
  'some-clips-gone': [404, 'Some of these clips are no longer in the library. Reload the page.'],
  'clip-unread': [
    409,
    ({ path, problem }: Of<'path'> & { readonly problem: string | null }) =>
      `${path}: ${problem ?? 'it was not read fully. Scan its volume again.'}`,
  ],
  'two-clips-needed': [400, 'Choose at least two clips that show the same footage.'],
  'not-as-asked': [400, ({ problem }: { readonly problem: string }) => problem],
  'too-large': [
    413,
    ({ bytes }: { readonly bytes: number }) => `What was sent is larger than ${quantity(bytes / 1e6, 'MB')}.`,
  ],
  'no-json': [400, 'The request is not JSON.'],
  'unsound-json': [400, ({ problem }: { readonly problem: string }) => problem],
  'nothing-here': [404, 'There is nothing at this address.'],
  'destination-read-only': [
    409,
    ({ name }: Of<'name'>) => `${name} is read-only. Choose another destination.`,
  ],
  'copy-into-itself': [
    400,
    'A copy cannot go into its own source, nor twice into one folder. Choose different folders.',
  ],
  'clip-gone': [404, 'This clip is no longer in the library. Choose another.'],
  'no-decode-device': [409, 'No decode device can be used here. Decode support names what is missing.'],
  'decode-device-twice': [400, 'A device is named twice. Name each once, with the share that it is to get.'],
  'decode-device-unusable': [409, 'This decode device cannot be used here. Reload the page.'],
  'chosen-volume-read-only': [409, ({ name }: Of<'name'>) => `${name} is read-only. Choose another volume.`],
  'clip-rate-not-constant': [
    409,
    ({ path, preset }: Of<'path' | 'preset'>) =>
      `${path} has a variable rate, which ${preset} cannot keep. Choose another preset or leave the clip out.`,
  ],
  'gesture-gone': [404, "This recorded gesture is gone. Record another in a timeline's viewer."],
  'self-check-under-way': [409, 'A self-check is already running. Wait for its result.'],
  'self-check-needs-clip': [
    409,
    ({ frames }: Of<'frames'>) =>
      `The self-check needs an all-intra clip of at least ${frames} frames. Add a volume with one on the Storage page, for example a proxy.`,
  ],
  'media-missing': [
    409,
    ({ names }: Of<'names'>) =>
      `Not all of this is at hand: ${names}. Relink its media first, so that nothing is left out.`,
  ],
  'not-soakable': [400, 'A soak repeats a playback, an export or an analysis. Choose one.'],
  'frame-paced-needs-clip': [400, 'A frame-paced test reads a clip. Choose one of this volume.'],
  'too-much-under-way': [
    400,
    ({ requests, block, most }: Of<'requests' | 'block' | 'most'>) =>
      `${requests} requests of ${block} are more than the ${most} that may be under way at once. Take smaller blocks or fewer requests.`,
  ],
  'staircase-too-short': [
    400,
    ({ bytes }: Of<'bytes'>) =>
      `A staircase reads on from step to step: let it move at least ${bytes}, or take smaller blocks.`,
  ],
  'write-test-takes-no-clip': [400, 'A write test writes a file of its own. Leave the clip out.'],
  'write-on-read-only': [
    409,
    ({ path }: Of<'path'>) => `${path} is read-only. Read one of its clips instead, or mount it for writing.`,
  ],
  'volume-known': [
    409,
    ({ path, name }: Of<'path' | 'name'>) =>
      `${path} is the volume "${name}" already. Scan it again, or choose another folder.`,
  ],
  'simulated-stays-so': [
    409,
    'A real volume does not become a simulated one, nor the other way round. Add another volume.',
  ],
  'volume-gone': [404, 'This volume is no longer in the list. Reload the page.'],
  'clip-removed': [404, 'This clip is no longer in the library. It may have been removed with its volume.'],
  'frames-unknown': [404, 'The frames of this clip are not known.'],
  'clip-states-rate': [
    409,
    ({ path }: Of<'path'>) =>
      `${path} states its own rate, which its frames were made for. Only that of pictures without one can be set.`,
  ],
  'clip-of-files-frame-paced': [
    400,
    ({ path }: Of<'path'>) =>
      `${path} lies in several files, which are read packet by packet. Take the frame-paced test, or leave the clip out.`,
  ],
  'rendition-of-files': [
    400,
    ({ path }: Of<'path'>) =>
      `${path} lies in several files; renditions are made of single ones. Put it on a timeline and export that.`,
  ],
  'no-thumbnails': [404, 'There are no thumbnails of this clip yet.'],
  'no-media-ending': [
    400,
    ({ name, endings }: Of<'name' | 'endings'>) =>
      `${name} does not end like a media file (${endings}). Choose a clip.`,
  ],
  'folder-leads-out': [400, folderLeadsOut],
  'nothing-sent': [400, 'Nothing was sent. Choose a clip.'],
  'upload-name-taken': [
    409,
    ({ name, volume }: Of<'name' | 'volume'>) =>
      `${name} is on ${volume} already. Rename the file, or remove the one that is there.`,
  ],
  'upload-failed': [409, ({ problem }: { readonly problem: string }) => problem],
  'trial-not-running': [409, 'This trial is not running.'],
  'runner-silent': [503, 'The runner does not answer; it is started again by itself.'],
  'no-such-viewer': [404, 'There is no viewer with this address.'],
  'test-needs-clip': [400, 'This test needs a clip.'],
  'cell-clip-gone': [400, 'The clip is no longer in the library.'],
  'cell-clip-unplayable': [
    400,
    ({ problem }: { readonly problem: string | null }) => problem ?? 'The clip cannot be played.',
  ],
  'no-proxy': [400, 'It has no proxy. Make one under Media, Renditions.'],
  'cell-clip-unread': [400, 'The clip was not read fully. Scan its volume again.'],
  'its-volume-gone': [400, 'Its volume is no longer in the list.'],
  'throughput-of-clip': [400, 'Throughput is measured on a volume, not on a clip.'],
  'not-in-a-matrix': [400, ({ test }: Of<'test'>) => `A matrix does not measure ${test}.`],
  'cell-timeline-gone': [400, 'The timeline is no longer there.'],
  'media-not-on-volume': [
    400,
    ({ elsewhere, media, name }: Of<'elsewhere' | 'media' | 'name'>) =>
      `${elsewhere} of its ${media} media do not lie on this volume, ${name} for one. Copy them there and scan the volume.`,
  ],
  'no-proxies': [400, 'None of its media has a proxy. Make some under Media, Renditions.'],
  'cell-volume-gone': [400, 'The volume is no longer in the list.'],
  'cell-volume-read-only': [
    400,
    "It is read-only, and a read test writes its file first. Measure one of its clips on the volume's page.",
  ],
  'no-subject': [400, 'Choose at least one clip or timeline.'],
  'no-volume': [400, 'Throughput is measured on volumes. Choose at least one, or leave that test out.'],
  'too-many-runs': [
    400,
    ({ runs, most }: Of<'runs' | 'most'>) =>
      `That makes ${runs} runs; at most ${most} go into one matrix. Choose fewer conditions or repeats.`,
  ],
  'no-such-hash-list': [404, 'This hash list is not kept here any more. Choose the file again.'],
  'no-hash-list-given': [400, 'Choose a hash list: a file, or one that lies on a volume.'],
  'plan-imported': [
    409,
    'This plan came with a bundle. Its runs can be made only on the rig that it is from.',
  ],
  'of-another-rig': [409, 'This result comes from another rig. It can be repeated only there.'],
  'not-repeatable': [409, ({ reason }: { readonly reason: string }) => reason],
  'played-clip-gone': [
    409,
    'The clip of this trial is no longer in the library. Scan its volume, then play it again.',
  ],
  'no-such-plan': [404, 'There is no series or matrix with this address. It may have been removed.'],
  'plan-not-running': [409, 'It does not run, so there is nothing to pause.'],
  'plan-not-paused': [409, 'It is not paused.'],
  'plan-ended': [409, 'It has already ended.'],
  'which-run': [400, 'Say which run to skip.'],
  'run-ended': [409, 'This run has already ended.'],
  'which-condition': [400, 'Say which condition to skip.'],
  'plan-not-ended': [409, 'Cancel it first, then remove it.'],
  'plan-parts-gone': [409, 'None of its clips and timelines is there any more. Build a new matrix.'],
  'no-such-prerender': [404, 'There is no such pre-render of this timeline. It may have been removed.'],
  measuring: [409, 'A trial is running. The viewer waits, because it would be measured with it.'],
  'too-many-viewers': [
    409,
    ({ most }: Of<'most'>) =>
      `${most} viewers are already open. Close the page of one, then reload this one.`,
  ],
  'clip-not-on-volume': [404, 'This clip is not on the volume any more. Choose another.'],
  'delivery-there': [
    409,
    ({ name }: Of<'name'>) => `${name} already exists and stays as it is. Give yours another name.`,
  ],
  'no-such-delivery': [404, 'There is no such delivery. It may have been removed.'],
  'no-media-at-hand': [409, "None of the timeline's media is at hand. Relink them first."],
  'no-clip-on-volume': [409, 'This volume has no clip that can be played. Scan it, or choose another.'],
  'clip-unplayable-or-gone': [409, 'This clip cannot be played or is gone. Choose another.'],
  'no-fields': [
    409,
    'This clip is not known to be interlaced: it has no fields to show one by one. Choose another way, or scan its volume again.',
  ],
  'no-target': [400, 'Choose a timeline or a clip.'],
  'no-such-gesture': [404, 'There is no such gesture. It may have been removed.'],
  'no-such-timeline': [404, 'There is no timeline with this address. It may have been removed.'],
  'changed-elsewhere': [
    409,
    'This timeline was changed in another window. Reload the page to see its state; what you changed here since is lost then, so save it as a new timeline first.',
  ],
  'no-such-version': [404, 'There is no such version of this timeline.'],
  'no-clip': [400, 'Choose a clip.'],
  'no-clip-plays': [409, 'No clip of the library can be played. Add a volume under Storage and scan it.'],
  'file-unreadable': [
    400,
    ({ name, problem }: Of<'name' | 'problem'>) => `${name} cannot be read. ${problem}`,
  ],
  'no-track': [409, 'The timeline has no track to write.'],
  'no-such-look': [404, 'There is no look with this address.'],
  'stretch-not-prerendered': [
    409,
    'Nothing of this stretch is pre-rendered. Pre-render it first, or choose to render it live.',
  ],
  'timeline-empty': [409, 'This timeline is empty. Drag a clip into it first.'],
  'begins-after-end': [
    400,
    ({ from, end }: Of<'from' | 'end'>) => `The run would begin at slot ${from}, but ends at ${end}.`,
  ],
  'trial-ended': [409, 'This trial has already ended.'],
  'not-pausable': [409, 'Only copies, verifications and renditions can be paused.'],
  'not-running': [409, 'It does not run.'],
  'nothing-left': [409, 'It has nothing left to do.'],
  'no-such-control': [404, ({ controls }: Of<'controls'>) => `A trial can be told to ${controls}.`],
  'trial-not-ended': [409, 'Cancel the trial first, then remove it.'],
  'no-such-trial': [404, 'There is no trial with this address. It may have been removed.'],
  'which-kind': [400, ({ kinds }: Of<'kinds'>) => `Say which kind of trial: ${kinds}.`],
  'nothing-to-try': [400, 'Nothing in the selection can be tested. Choose something else.'],
  'no-further-attempt': [
    400,
    'A further attempt is one at a trial of the same kind that did not complete. Leave attemptOf out for a trial of its own.',
  ],
  'clip-not-read': [409, 'This clip was not read fully. Scan its volume again.'],
  'not-on-volume': [400, 'It does not lie on this volume. Copy it there and scan the volume.'],
  'proxy-not-on-volume': [400, 'Its proxy does not lie on this volume. Copy it there and scan the volume.'],
  'nothing-to-run': [409, 'There is nothing to run. Choose clips and volumes.'],
  'all-left-out': [
    409,
    ({ what, reason }: Of<'what' | 'reason'>) => `There is nothing to run. ${what}: ${reason}`,
  ],
  'none-in-doubt': [409, 'No run is in doubt, or all that were have been repeated.'],
  'none-failed': [409, 'No run needs repeating, or all that did have been repeated.'],
  'nothing-prerendered': [
    409,
    'Nothing of this timeline is pre-rendered. Pre-render it under Trials, Tasks first, or choose to render it live.',
  ],
  'prerenders-unfit': [
    409,
    ({ unfit }: Of<'unfit'>) =>
      `None of its pre-renders can be used: ${unfit}. Pre-render it again, or choose to render it live.`,
  ],
  'clip-has-problem': [409, ({ problem }: { readonly problem: string }) => problem],
  'clip-unplayable': [409, 'This clip cannot be played.'],
  'chosen-clip-unplayable': [
    409,
    ({ path }: Of<'path'>) => `${path} cannot be played or is gone. Choose other clips.`,
  ],
  'chosen-clip-gone': [409, 'A clip cannot be played or is gone. Choose other clips.'],
} as const satisfies Readonly<Record<string, readonly [status: number, words: Words]>>;
