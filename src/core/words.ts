import type { Words } from './failure';

type Of<Names extends string> = Readonly<Record<Names, string | number>>;

const exportAgain = 'The file may be cut off or changed; export it again.';

/** What people are told of each refusal of the core, by its code. What schemas ask of a field stands at that field. */
export const coreWords = {
  // Requests that no port answers.
  'other-host': ({ host }: Of<'host'>) => `Navvy was not started for this address. Open http://${host}.`,
  'address-unreadable': 'This address cannot be read: its escapes are not text.',
  'foreign-page': 'A page of another site may not ask this of Navvy. Open Navvy itself.',
  'other-content-type': ({ type }: Of<'type'>) => `Send this with the header Content-Type: ${type}.`,

  // Result bundles.
  'bundle-no-json': 'The file is not JSON. Choose a result bundle that Navvy exported.',
  'bundle-other-format': ({ format }: Of<'format'>) =>
    `The file is not a result bundle: its "format" is not "${format}".`,
  'bundle-without-version': 'The bundle does not say its version as a whole number.',
  'bundle-too-new': ({ version, known }: Of<'version' | 'known'>) =>
    `The bundle is of version ${version}; this Navvy reads up to version ${known}. Update Navvy, or export it from there in the older version.`,
  'bundle-too-many': ({ most }: Of<'most'>) => `A bundle holds at most ${most} trials. Export fewer at once.`,
  'no-list': ({ place }: Of<'place'>) => `${place} must be a list.`,
  'bundle-unkept': ({ problem }: { readonly problem: string }) =>
    `${problem.replace('What was sent', 'The bundle')} ${exportAgain}`,
  'entry-twice': ({ place, field }: Of<'place' | 'field'>) =>
    `${place}.${field} appears twice in the bundle. ${exportAgain}`,
  'bundle-changed': ({ place }: Of<'place'>) =>
    `${place} is not what was exported: its hash is another. Get the file anew from where it was exported, or export it again.`,
  'bundle-timeline': ({ place, problem }: Of<'place' | 'problem'>) => `${place}: ${problem} ${exportAgain}`,
  'bundle-misfit': ({ place, must }: Of<'place' | 'must'>) => `${place} ${must}. ${exportAgain}`,
  'entry-no-object': ({ place }: Of<'place'>) => `${place} must be an object.`,

  // Hash lists, behind their line.
  'list-no-xml': ({ reason }: { readonly reason: string }) =>
    `this is no whole XML: ${reason}. The list may be cut off; get it anew from where it was written.`,
  'list-declares':
    'a hash list declares no document type or entities. Get it anew from where it was written.',
  'no-hash-list':
    'This is no hash list. Choose an ASC MHL or MHL file, or a list with a hash and a path on each line.',
  'list-empty': 'This hash list names no file.',
  'list-too-long': ({ most }: Of<'most'>) =>
    `the list names more than ${most} files. Check its folders one by one.`,
  'no-checksum': ({ content }: Of<'content'>) =>
    `"${content}" is not a hash with a path. Each line has a hash, two spaces and a path, or NAME (path) = hash.`,
  'hash-path-outside': ({ path }: Of<'path'>) =>
    `"${path}" does not lie in the folder of the list. Paths of a list are below its folder, with / between their parts.`,
  'hash-path-empty': 'a file of the list has no path.',

  // Looks (.cube), behind their line.
  'keyword-behind-entries': ({ keyword }: Of<'keyword'>) =>
    `the keyword ${keyword} comes after table entries. Keywords must come first.`,
  'size-twice': ({ first }: Of<'first'>) =>
    `the size was given on line ${first} already. A file holds one table.`,
  'two-numbers': ({ word }: Of<'word'>) => `${word} takes two numbers.`,
  'keyword-unknown': ({ keyword }: Of<'keyword'>) => `the keyword ${keyword} is not known in .cube files.`,
  'entries-before-size': 'table entries come before LUT_1D_SIZE or LUT_3D_SIZE.',
  'too-many-entries': ({ expected, first }: Of<'expected' | 'first'>) =>
    `there are more entries than the ${expected} that the size on line ${first} asks for.`,
  'no-size': 'There is no LUT_1D_SIZE or LUT_3D_SIZE. This is not a .cube file.',
  'too-few-entries': ({ entries, expected }: Of<'entries' | 'expected'>) =>
    `the file ends after ${entries} of ${expected} entries. It may be cut short.`,
  'domain-upside-down': ({ channel }: Of<'channel'>) =>
    `DOMAIN_MIN is not below DOMAIN_MAX for channel ${channel}.`,
  'no-number': ({ text }: Of<'text'>) => `"${text}" is not a number.`,
  'three-numbers': ({ what, found }: Of<'what' | 'found'>) =>
    `${what} takes three numbers, here are ${found}.`,
  'one-whole-number': ({ word }: Of<'word'>) => `${word} takes one whole number.`,
  'size-out-of-range': ({ word, value, least, most }: Of<'word' | 'value' | 'least' | 'most'>) =>
    `${word} is ${value}; it may be ${least} to ${most}.`,

  // Edit lists (CMX 3600), behind their line.
  'no-text': 'it holds characters that are not text. Export the list again.',
  'frame-count-mode': ({ content }: Of<'content'>) =>
    `"${content}": FCM: must be followed by DROP FRAME or NON-DROP FRAME.`,
  'motion-before-event': 'a motion effect (M2) comes before any event.',
  'no-event': ({ content }: Of<'content'>) =>
    `"${content}" is not an event: expected number, reel, track, transition and four timecodes.`,
  'too-many-events': ({ most }: Of<'most'>) => `the list has more than ${most} events. Import it in parts.`,
  'timecode-unsound': ({ reason }: { readonly reason: string }) => reason,
  'ends-before-begin': ({ number }: Of<'number'>) => `event ${number} ends before it begins.`,
  'events-overlap': ({ number }: Of<'number'>) =>
    `event ${number} begins before the one before it has ended. Sort the list by record time.`,
  'dissolve-too-long': ({ number }: Of<'number'>) =>
    `the dissolve of event ${number} is longer than the event.`,
  'no-drop-frame': ({ num, den }: Of<'num' | 'den'>) =>
    `the list counts drop-frame timecode, which ${num}/${den} frames per second cannot have. Choose the rate 30000/1001 or 60000/1001.`,
  'dissolve-without-length': ({ number }: Of<'number'>) =>
    `event ${number} is a dissolve without a length in frames.`,
  'wipe-without-length': ({ number }: Of<'number'>) =>
    `event ${number} is a wipe without a length in frames.`,

  // Timelines (OTIO), behind their place.
  'otio-no-json': ({ reason }: Of<'reason'>) => `it is not JSON (${reason}). Export the timeline again.`,
  'no-timeline': ({ schema }: Of<'schema'>) =>
    `it holds a ${schema === '' ? 'document without a schema' : schema}, not a Timeline.`,
  'length-unknown': 'the clip has neither a source_range nor an available_range, so its length is not known.',
  'no-time-scalar': 'a LinearTimeWarp needs a number as time_scalar.',
  'speed-too-great': ({ most }: Of<'most'>) => `a LinearTimeWarp goes to ${most} times.`,
  'no-object': 'an object was expected here.',
  'list-expected': 'a list was expected here.',
  'no-time': 'a time needs a number as value and a rate.',
  'rate-out-of-range': ({ most }: Of<'most'>) => `a rate is above 0 and at most ${most} a second.`,
  'otio-too-deep': ({ most }: Of<'most'>) =>
    `tracks and stacks lie more than ${most} deep in each other. Flatten them, then export again.`,
  'otio-unsound': ({ problem }: { readonly problem: string }) => problem,

  // Exports and analyses as they are chosen.
  'export-picture': ({ name, pictures }: Of<'name' | 'pictures'>) =>
    `${name} is written as ${pictures}. Choose one of them.`,
  'export-control': ({ name, controls }: Of<'name' | 'controls'>) =>
    `The size of ${name} is set by its ${controls}. Choose that.`,
  'export-quality': ({ name, quality, best, worst }: Of<'name' | 'quality' | 'best' | 'worst'>) =>
    `The ${quality} of ${name} lies from ${best} (best) to ${worst}. Choose one.`,
  'export-rate': 'Give a rate in Mb/s.',
  'export-class': ({ name, classes }: Of<'name' | 'classes'>) => `Choose a class of ${name}: ${classes}.`,
  'export-class-picture': ({ name, rateClass, pictures }: Of<'name' | 'rateClass' | 'pictures'>) =>
    `${name} ${rateClass} is written as ${pictures}. Choose that.`,
  'export-key-distance': ({ name }: Of<'name'>) =>
    `Every frame of ${name} is a key frame. Leave the key frame distance out.`,
  'export-speed': ({ name }: Of<'name'>) => `${name} has no choice of speed. Leave it out.`,
  'export-sound': ({ name, sounds }: Of<'name' | 'sounds'>) =>
    `${name} is written with ${sounds} for its sound. Choose one of them.`,
  'no-encode-device': 'This rig has no such encode device. Reload the page and choose one, or software.',
  'device-encodes-nothing': ({ name }: Of<'name'>) =>
    `${name} encodes nothing. Choose another device, or software.`,
  'device-lacks-codec': ({ name, codec }: Of<'name' | 'codec'>) =>
    `${name} does not encode ${codec}. Choose another codec, another device, or software.`,
  'device-lacks-picture': ({ name, codec, pictures }: Of<'name' | 'codec' | 'pictures'>) =>
    `${name} encodes ${codec} as ${pictures}. Choose that, another device, or software.`,
  'device-raster': ({ name, width, height }: Of<'name' | 'width' | 'height'>) =>
    `${width}x${height} is more than ${name} takes. Choose another device, or software.`,
  'device-speed': 'An encode device has no choice of speed. Leave it out.',
  'analysis-factor': 'Choose how much slower: 2, 4 or 8 times.',
  'analysis-points': 'Say how many points to follow.',
  'analysis-colour': 'Choose the colour that the matte leaves out.',
  'analysis-tolerance': 'Say how far from it a colour still goes, 0.01 to 1.',

  // Briefs and gestures.
  'brief-cameras': 'Choose at least one camera: a clip that stands for it.',
  'brief-same-clip': 'Two cameras stand for the same clip. Keep one of them and add up their hours.',
  'brief-places': 'Choose at least one volume to compare.',
  'gesture-too-short': 'A gesture has at least two positions, each with its time.',
  'gesture-too-long': 'A gesture has at most 20 000 positions.',
  'gesture-times': 'The times of a gesture ascend.',
  'gesture-outside': ({ slots }: Of<'slots'>) =>
    `A position lies outside the ${slots} slots of the timeline.`,

  // Stand-ins and planned stores.
  'stand-in-link': 'Choose a link from the list.',
  'stand-in-drive': 'Choose a drive from the list.',
  'array-too-few-drives': ({ level, fewest }: Of<'level' | 'fewest'>) =>
    `Level ${level} needs at least ${fewest} ${fewest === 1 ? 'drive' : 'drives'}.`,
  'array-odd-drives': 'Level 10 needs an even number of drives.',
  'plan-whole': ({ what }: Of<'what'>) => `${what} must be 1 or more.`,
  'plan-drive-size': 'A drive needs a size.',
  'plan-mtu': 'A frame carries 576 to 9 600 bytes.',
  'plan-negative': 'Margin, cache and prices cannot be negative.',

  // Timelines that do not hang together.
  'start-timecode': ({ reason }: Of<'reason'>) => `Its start timecode: ${reason}.`,
  'item-id-twice': ({ where }: Of<'where'>) => `${where}: its id appears twice.`,
  'item-not-whole': ({ where }: Of<'where'>) =>
    `${where}: start and length must be whole slots, at least 0 and 1.`,
  'item-beyond-longest': ({ where, most }: Of<'where' | 'most'>) =>
    `${where}: it ends beyond ${most} slots, the longest timeline.`,
  'item-media-unknown': ({ where, media }: Of<'where' | 'media'>) =>
    `${where}: its media ${media} is not in the timeline's list.`,
  'item-inside': ({ where, inner }: Of<'where' | 'inner'>) => `${where}: ${inner} lies inside it.`,
  'item-overlaps': ({ where }: Of<'where'>) => `${where}: it overlaps more than the item next to it.`,
} as const satisfies Readonly<Record<string, Words>>;

export type CoreCode = keyof typeof coreWords;
