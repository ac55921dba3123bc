import type { Words } from '@/core/failure';
import { quantity, size } from '@/core/format';
import { faultAdvice } from '@/core/media/faults';

type Of<Names extends string> = Readonly<Record<Names, string | number>>;
type Numbers<Names extends string> = Readonly<Record<Names, number>>;
/** What could not be decoded, as the beginning of a sentence, by which decoder, and what that said. */
type Undecoded = Readonly<Record<'what' | 'decoder' | 'reason', string>>;

/** Names that a message repeats. */
const mostNamed = 3;
const some = (names: readonly string[]) => names.slice(0, mostNamed).join(', ');

/** What people are told of each failure in measuring: what happened, to which file or volume, and what to do. */
export const engineWords = {
  // What the system says of a file or folder.
  'file-missing': ({ what }: Of<'what'>) =>
    `${what} is not there. Check that the volume is connected and the file has not been moved, then scan the volume again.`,
  'file-forbidden': ({ what }: Of<'what'>) =>
    `${what} may not be used by this user. Give permission on it and try again.`,
  'volume-full': ({ what }: Of<'what'>) =>
    `${what} could not be written: the volume is full. Free space on it or ask for less, then try again.`,
  'volume-read-only': ({ what }: Of<'what'>) =>
    `${what} could not be written: the volume is read-only. Mount it for writing or choose another.`,
  'file-there-already': ({ what }: Of<'what'>) =>
    `${what} already exists and was left as it is. Choose another folder or move it away.`,
  'device-read-error': ({ what }: Of<'what'>) =>
    `${what} gave a read error from the device. Check the drive, cable or link, then try again.`,
  'store-read-error': ({ what }: Of<'what'>) =>
    `${what} could not be read: the server of its volume failed or went away, or the link to it did. Check both. Mount it again if it is gone, then repeat.`,
  'store-dropped-out': ({ what }: Of<'what'>) =>
    `${what} belongs to a network store that has dropped out. Connect the store again and repeat.`,
  'store-went-away': ({ what }: Of<'what'>) =>
    `${what} cannot be reached any more: its volume went away, since the mount, the server or the link to it is down. Mount it again, then repeat.`,
  'drive-went-away': ({ what }: Of<'what'>) =>
    `${what} cannot be reached any more: its volume went away, since the drive or card is no longer connected. Connect it again, then repeat.`,
  'no-folder': ({ what }: Of<'what'>) => `${what} is not a folder. Choose the folder that holds the media.`,
  'file-unusable': ({ what, reason }: Of<'what' | 'reason'>) => `${what} could not be used: ${reason}.`,

  // What a decoder refuses.
  'no-decoder': ({ clip }: Of<'clip'>) =>
    `There is no decoder for ${clip} on this rig. Choose another clip, or a rendition of it.`,
  'not-decoded-damage': ({ what }: Undecoded) =>
    `${what} could not be decoded: its data is damaged. ${faultAdvice.damage}`,
  'not-decoded-feature': ({ what, decoder }: Undecoded) =>
    `${what} could not be decoded: it uses a feature that the decoder ${decoder} does not have. ${faultAdvice.feature}`,
  'not-decoded-memory': ({ what }: Undecoded) =>
    `${what} could not be decoded: there was not enough memory. ${faultAdvice.memory}`,
  'not-decoded-unknown': ({ what, decoder, reason }: Undecoded) =>
    `${what} could not be decoded by ${decoder} (${reason}). ${faultAdvice.unknown}`,

  'device-not-opened': ({ kind, code }: Of<'kind' | 'code'>) =>
    `The device ${kind} cannot be opened (code ${code}). Look at Decode support for what is missing.`,
  'device-has-no-room': ({ kind, width, height, code }: Of<'kind' | 'width' | 'height' | 'code'>) =>
    `The device ${kind} has no room for pictures of ${width}x${height} (code ${code}). Choose software.`,
  'picture-not-on-device': ({ code }: Of<'code'>) =>
    `A picture could not be put on the encode device (code ${code}).`,
  'no-memory-for-size': ({ width, height }: Of<'width' | 'height'>) =>
    `There is not enough memory for another picture of ${width}x${height}.`,
  'no-encoder': ({ encoder }: Of<'encoder'>) =>
    `The codec library has no encoder ${encoder} here. Choose another codec.`,
  'encoder-not-opened': ({ encoder, code }: Of<'encoder' | 'code'>) =>
    `Opening the encoder ${encoder} failed (code ${code}). Change its settings.`,
  'picture-not-from-device': ({ code }: Of<'code'>) =>
    `A picture could not be brought to memory from the decode device (code ${code}).`,
  'stand-in-holds-less': ({ needed, room, frames, fitting }: Of<'needed' | 'room' | 'frames' | 'fitting'>) =>
    `A stand-in gives pictures that were decoded before the run: ${frames} frames are ${needed}, and ${room} may be taken here. Play a shorter stretch, of ${fitting} frames at most, or choose software or a real device.`,
  'stand-in-unknown': 'This stand-in is not known any more. Choose another device.',
  'no-first-picture': 'The decoder makes no picture of its first frame.',
  'no-picture-of-clip': 'The decoder gave no picture of this clip. Choose another clip.',
  'ends-before-frame': ({ path, row }: Of<'path' | 'row'>) =>
    `${path} ends before frame ${row}. The file is cut short; copy it again from its source.`,
  'leads-by-link': ({ path, real }: Of<'path'> & { readonly real: string | null }) =>
    `${path} leads by a link${real === null ? '' : ` to ${real}`}, so it is not what it was. Nothing was read or written there. Put it back as it was, or add the real folder as a volume.`,
  'no-file': ({ path }: Of<'path'>) =>
    `${path} is not a file but a folder, pipe or device. Move it away, then scan the volume again.`,
  'ends-before-byte': ({ path, end, needed }: Of<'path' | 'end' | 'needed'>) =>
    `${path} ends at byte ${end}, but a frame reaches to byte ${needed}. The file is cut short; copy it again from its source.`,
  'changed-meanwhile': ({ path }: Of<'path'>) =>
    `${path} was changed or replaced while it was read. Scan the volume again and repeat the trial.`,
  'no-jpeg-encoder': 'The encoder for JPEG pictures could not be opened.',
  'thumbnails-not-written': 'The thumbnails could not be written as JPEG.',
  'empty-file': ({ path }: Of<'path'>) => `${path} is empty: 0 bytes. Copy it again from its source.`,
  'no-media': ({ path }: Of<'path'>) =>
    `${path} could not be opened as media: it is damaged, cut short, or of a kind that is not known here.`,
  'no-moving-picture': ({ path }: Of<'path'>) => `${path} holds no moving picture.`,
  'no-picture-frames': ({ path }: Of<'path'>) => `${path} holds no picture frames.`,
  'not-read-fully': ({ path }: Of<'path'>) => `${path} was not read fully. Scan its volume again.`,
  'container-unreadable': 'Its container cannot be read.',
  'no-picture-no-reason':
    'The decoder gave no picture at all, and no reason. Try another copy of the file, then another clip of its kind, to learn which of them it is.',
  'not-scaled': ({ width, height, code }: Of<'width' | 'height' | 'code'>) =>
    `A frame could not be scaled to ${width}x${height} (code ${code}).`,
  'no-memory-for-pictures': ({ width, height }: Of<'width' | 'height'>) =>
    `There is not enough memory for pictures of ${width}x${height}.`,
  'picture-not-looked-at': ({ code }: Of<'code'>) => `A picture could not be looked at (code ${code}).`,
  'no-memory-to-look': 'There is not enough memory to look at a picture.',
  'rate-not-constant': ({ preset }: Of<'preset'>) =>
    `${preset} needs a constant rate, and this clip has frames of different lengths. Choose another preset.`,
  'step-failed': ({ step, code }: Of<'step' | 'code'>) => `${step} failed (code ${code}).`,
  'source-not-opened': ({ path }: Of<'path'>) =>
    `${path} could not be opened. Check that its volume is connected, then go on.`,
  'nothing-decodes': ({ path }: Of<'path'>) => `${path} holds no picture that can be decoded here.`,
  'calibration-shows-nothing':
    'The clip for the calibration shows nothing in its first slot. Choose another clip.',
  'calibration-not-decoded':
    'The first frame of the clip for the calibration cannot be decoded. Choose another clip.',
  'no-clip-to-add': 'There is no clip to add to. Choose a clip and start again.',
  'no-files': ({ path }: Of<'path'>) =>
    `${path} holds no files. Choose the card's folder that has the media.`,
  'other-files-there': ({
    folder,
    conflicts,
    files,
  }: Of<'folder' | 'files'> & { readonly conflicts: readonly string[] }) =>
    `${folder} has other files under the names of ${conflicts.length} of ${files} (${some(conflicts)}${conflicts.length > mostNamed ? ', …' : ''}). Nothing was written. Choose another folder, or move them away.`,
  'file-ended-early': ({ path, bytes }: Of<'path' | 'bytes'>) =>
    `${path} ended before its ${bytes} bytes. It was changed while it was copied, or the card was pulled; check it and copy again.`,
  'hash-list-is-link': ({ path }: Of<'path'>) =>
    `${path} is a link or holds one in the place of its chain, so the hash lists would be written elsewhere. Nothing was written. Move it away, then copy again.`,
  'frame-paced-needs-clip': 'A frame-paced test reads a clip. Choose one of this volume.',
  'under-reserve': ({ folder, free, bytes, reserve }: Of<'folder'> & Numbers<'free' | 'bytes' | 'reserve'>) =>
    `${folder} has ${size(free)} free. Writing ${size(bytes)} would leave less than the reserve of ${size(reserve)}. Free space or choose a smaller test.`,
  'simulated-pictures-gone': 'The pictures of the simulated encoder are gone. Start again.',
  'analysis-not-set-up': ({ code }: Of<'code'>) =>
    `This analysis could not be set up (code ${code}). Choose other values and start again.`,
  'no-memory-for-frame': 'There is not enough memory for another frame.',
  'refused-by-analysis': ({ code }: Of<'code'>) => `A picture was refused by the analysis (code ${code}).`,
  'not-compared': 'The pictures of the output could not be compared with those of its source.',
  'comparison-not-set-up': ({ code }: Of<'code'>) =>
    `The comparison of pictures could not be set up (code ${code}).`,
  'no-sound-encoder': ({ name }: Of<'name'>) =>
    `The codec library has no encoder ${name} here. Export without sound.`,
  'output-holds-nothing': 'The output holds no picture that can be decoded here.',
  'output-not-opened': ({ code }: Of<'code'>) =>
    `The output could not be opened to be proved (code ${code}). Try again.`,
  'no-room': ({ folder, room, bytes }: Of<'folder'> & Numbers<'room' | 'bytes'>) =>
    `${folder} has room for ${size(room)} beside its reserve, and this may take ${size(bytes)}. Free space, choose another volume, or export less.`,
  'clip-not-at-hand': 'A clip of this timeline is not at hand. Relink its media and start again.',
  'sound-not-resampled': ({ path, code }: Of<'path' | 'code'>) =>
    `The sound of ${path} could not be resampled (code ${code}). Switch sound off.`,
  'device-has-no-encoder': ({ device }: Of<'device'>) =>
    `${device} has no encoder for this. Choose another device, or software.`,
  'not-converted': ({ code }: Of<'code'>) => `A frame could not be converted for the encoder (code ${code}).`,
  'picture-not-as-asked': 'A picture was not made as the encoder takes it.',
  'target-went-away': ({ path }: Of<'path'>) =>
    `${path} went away while it was written to. Connect its volume and start again.`,
  'only-reserve-left': ({ path, written }: Of<'path'> & Numbers<'written'>) =>
    `${path} has only its reserve left after ${size(written)}. Free space or choose another volume, and start again.`,
  'device-encodes-no-more': ({ device }: Of<'device'>) =>
    `${device} does not encode this any more. Choose another device.`,
  'output-not-proved': ({ proof }: { readonly proof: string }) =>
    `${proof} Its time does not count. Change the settings and start again.`,
  'points-not-followed': ({ reason }: Of<'reason'>) => `The points could not be followed: ${reason}`,
  'no-memory-for-picture': 'There is not enough memory for another picture.',
  'effects-not-computed': ({ code }: Of<'code'>) =>
    `The effects of a slot could not be computed (code ${code}). Switch its effects off one by one to find which.`,
  'refused-by-effects': ({ code }: Of<'code'>) => `A frame was refused by the effects (code ${code}).`,
  'effects-not-set-up': ({ items, code }: Of<'items' | 'code'>) =>
    `The effects of ${items} could not be set up (code ${code}). Check their values.`,
  'outside-roots': ({ path, roots }: Of<'path' | 'roots'>) =>
    `${path} lies outside the folders that Navvy may use: ${roots}. Choose a folder below one of them, or add its root to NAVVY_ROOTS and start Navvy again.`,
  'link-outside-roots': ({ path, real, roots }: Of<'path' | 'real' | 'roots'>) =>
    `${path} leads by a link to ${real}, which lies outside the folders that Navvy may use: ${roots}. Name the real folder in NAVVY_ROOTS if it is meant.`,
  'file-no-folder': ({ path }: Of<'path'>) => `${path} is a file. Choose the folder that holds the media.`,
  'volume-is-link': ({ path, real }: Of<'path' | 'real'>) =>
    `${path} leads by a link to ${real}, so it is not the volume that was added. Put it back as it was, or add the real folder as a volume.`,
  'link-out-of-volume': ({ path, root }: Of<'path' | 'root'>) =>
    `${path} leads by a link out of ${root}. Nothing was written there. Choose a folder that lies in the volume itself.`,
  'target-removed': 'The volume went from the list while it was rendered to.',
  'timeline-removed': 'The timeline was removed while it was rendered.',
  'renditions-target-gone':
    'The volume that the renditions go to is no longer in the list. Add it again and start again.',
  'renditions-target-read-only': ({ path }: Of<'path'>) =>
    `${path} is read-only. Choose another volume for the renditions.`,
  'clip-gone-or-unplayable':
    'The clip of this trial is no longer there or no longer playable. Scan its volume and start the trial again.',
  'trial-volume-gone':
    'The volume of this trial is no longer in the list. Add it again and start a new trial.',
  'trial-clip-gone':
    'The clip of this trial is no longer in the library. Scan its volume and start the trial again.',
  'task-parts-gone':
    'The timeline of this task, one of its clips or a pre-render that it uses is gone. Start another.',
  'target-gone': 'The volume to write to is no longer in the list. Add it again, then start again.',
  'target-read-only': ({ path }: Of<'path'>) => `${path} is read-only. Choose another volume to write to.`,
  'timeline-or-gesture-gone':
    'The timeline of this trial or its gesture is gone. Start it again from another timeline.',
  'soak-timeline-gone': 'The timeline of this soak is no longer in the library. Start it with another.',
  'reading-stands-still': ({ ms }: Numbers<'ms'>) =>
    `Reading it came to no end: nothing moved for ${quantity(ms / 1000, 's', 0)}, so the reading process was ended. The file is damaged, or its volume does not answer.`,
  'reading-process-ended': ({ how }: Of<'how'>) =>
    `Reading it ended the reading process (${how}). The file is damaged in a way that its decoder or demultiplexer does not survive.`,
  'clip-not-read-fully': 'It was not read fully. Scan its volume again.',
  'played-timeline-gone': 'The timeline of this trial is no longer in the library. Play another timeline.',
  'reader-failed': ({ reason }: { readonly reason: string }) => reason,
} as const satisfies Readonly<Record<string, Words>>;
