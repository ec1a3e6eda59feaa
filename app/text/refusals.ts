import { quoted } from './quoted'
import type { EditRefusal, MakeRefusal } from '@rubato/core/edits'

const frames = (count: number) => (count === 1 ? '1 frame' : `${count} frames`)
const fw = (value: number) => `${Math.round(value * 1000) / 1000} fw`

const NOT_FOR_A_SET: Readonly<Record<Extract<MakeRefusal, { readonly code: 'not-for-a-set' }>['why'], string>> = {
  reference: 'references are each shot’s own.',
  set: 'a set stands in shots, not in another set.',
  keys: 'it moves by keys, and a set has no time. Leave it out, or let it stand still first.',
  drawings: 'a set has no time, so all its pieces show one drawing each and are seen at the same frames. Leave it out of the choice.',
  camera: 'it travels with the camera, and a set has none. Let it go into the set first.',
  followed: 'a camera goes after it. Take that follow or aim out first, or bake it into framings.',
  follows: 'it follows another of them in place alone, and all of them hang on a level outside. Let it follow turn and size too, or choose that level as well.',
  locked: 'it is locked. Unlock it in the depth rack first.',
}

/** What was refused, why, and what to do now: one place for the wording. */
export function wordRefusal(refusal: MakeRefusal | EditRefusal): string {
  switch (refusal.code) {
    case 'missing':
      if (refusal.what === 'air') return 'That has been turned off meanwhile, perhaps in another window. Turn it on again first.'
      return refusal.what === 'drawing'
        ? 'The drawing is still being loaded. Try again in a moment.'
        : `The ${refusal.what} is no longer there. It may have been taken out in another window.`
    case 'length-out-of-range':
      return `A panel lasts from ${refusal.min} to ${refusal.max.toLocaleString('en')} frames; ${refusal.received} was asked for.`
    case 'last-panel':
      return 'A shot keeps at least one panel. Take the shot out instead.'
    case 'last-shot':
      return 'A film keeps at least one shot.'
    case 'last-sequence':
      return 'A film keeps at least one sequence.'
    case 'not-side-by-side':
      return 'Only neighbours can be joined: choose two or more that stand side by side in one shot, or shots side by side in one sequence.'
    case 'too-short-to-split':
      return 'A panel of one frame can’t be split.'
    case 'nothing-to-cut':
      return 'The shot already begins with this panel. Choose a later one to cut it there.'
    case 'has-alternates':
      return 'This shot has other takes, which would be lost. Take them out first, or leave the shot as it is.'
    case 'spans-work-there':
      return 'Follow, aim or hand-held work on this camera at those frames, and go by its framings. Bake them first (Alt Shift F), or take them out.'
    case 'try-too-long':
      return `A try has at most ${refusal.most.toLocaleString('en')} samples, and this one has ${refusal.received.toLocaleString('en')}. Work the camera for a shorter time.`
    case 'last-take':
      return 'A shot keeps at least one take.'
    case 'last-camera':
      return 'A shot keeps at least one camera.'
    case 'level-locked':
      return 'This level is locked. Unlock it in the depth rack to change it.'
    case 'key-locked':
      return 'This key is locked. Unlock it in the inspector to change it.'
    case 'framing-locked':
      return 'This framing is locked. Unlock it in the inspector to change it.'
    case 'camera-locked':
      return 'This camera is locked. Unlock it in the inspector to change it.'
    case 'length-locked':
      return 'A fermata holds this panel’s length. Take it off to change the length.'
    case 'nobody-gives':
      return 'Steal needs a panel after this one, without a fermata, to give or take the time. There is none: use Push, or take a fermata off.'
    case 'gives-too-little':
      return `The panel after can give ${frames(refusal.most)}; ${frames(refusal.asked)} ${refusal.asked === 1 ? 'is' : 'are'} wanted, ${refusal.asked - refusal.most} too many. Use Push, or make that panel longer first.`
    case 'fit-too-short':
      return `${frames(refusal.asked)} ${refusal.asked === 1 ? 'is' : 'are'} ${refusal.least - refusal.asked} too few: with the fermatas’ lengths and a frame for each other panel it takes ${refusal.least}.`
    case 'fit-all-held':
      return `Fermatas hold all of these panels at ${frames(refusal.heldFrames)}, ${Math.abs(refusal.asked - refusal.heldFrames)} ${refusal.asked > refusal.heldFrames ? 'fewer' : 'more'} than asked for. Take one off to fit the others.`
    case 'clip-not-there':
      return 'A clip is split inside it, at least a frame from its ends. Put the playhead over the clip first.'
    case 'transition-too-long':
      return refusal.most < 1
        ? 'The shots here have no frame left for a transition. Make one longer, or another transition shorter.'
        : `The shots beside it have room for ${frames(refusal.most)}; ${refusal.asked} ${refusal.asked === 1 ? 'was' : 'were'} asked for. Take fewer, or make the shorter shot longer.`
    case 'nothing-before':
      return 'The first shot has none before it. Use a fade at the film’s start instead.'
    case 'nothing-to-paste':
      return 'No move has been copied yet. Copy one in the shot that has it first.'
    case 'nothing-to-hold':
      return 'The camera rests here already. Put the playhead inside a move, at the frame until which it should wait.'
    case 'move-too-long':
      return `The move takes ${frames(refusal.asked)}; from here the shot has ${refusal.most}. Begin earlier, or scale it to the shot’s length.`
    case 'nothing-after':
      return refusal.what === 'frame' ? 'There is no later frame to copy it to. Put the playhead earlier in the shot.' : 'This is the camera’s last framing; no move leaves it.'
    case 'carrier-circle':
      return `That would make ${quoted(refusal.names[0]!)} hang on itself: ${refusal.names.map((name) => quoted(name)).join(' on ')} on ${quoted(refusal.names[0]!)}. Let one of them go first.`
    case 'too-many-cameras':
      return `A shot has at most ${refusal.most} cameras. Take one out first.`
    case 'target-hangs':
      return 'It travels with the camera, or turns along with it, so no camera can go after it: it would run after itself. Let it go into the set first, or choose where it stands instead of a point of it.'
    case 'followed-hangs':
      return `Camera ${refusal.camera} goes after this level, so it can’t be made to travel with a camera or to turn along with one. Take that follow or aim out first, or bake it into framings.`
    case 'drawing-name':
      return refusal.name === '' || refusal.name.length > 12 ? 'A drawing is called by 1 to 12 letters or digits.' : `This level has a drawing ${refusal.name} already. Give this one another name.`
    case 'carriers-too-deep':
      return 'A level hangs on at most 16 others, one on the other. Fasten it nearer to the first of them.'
    case 'carrier-shows-nothing':
      return 'A carrier shows nothing: it is there to be moved. Choose a level to draw on.'
    case 'between-keys':
      return 'Between two framings nothing is kept by looking. Press Key to keep this one.'
    case 'between-air-keys':
      return 'Between two keys nothing changes by itself. Press Key to keep another value at this frame, or go to a key.'
    case 'still-settling':
      return `The camera is still settling from the framing before. It rests from frame ${refusal.restsAtFrame + 1} of the shot: go there, or shorten the settle in the inspector.`
    case 'out-of-reach':
      return `A level stands at most ${refusal.most.toLocaleString('en')} fw from the set’s middle, and is at most a million times as large; ${fw(refusal.received)} was asked for.`
    case 'words-too-long':
      return `A panel has room for ${refusal.most.toLocaleString('en')} letters of each; together these would have ${refusal.received.toLocaleString('en')}. Shorten one first.`
    case 'pose-not-finite':
      return 'This camera has no such place. The numbers asked for don’t lead anywhere; try smaller ones.'
    case 'label-taken':
      return `There is already a shot ${refusal.label}. Give this one another label.`
    case 'nothing-selected':
      return 'Nothing is selected. Choose at least one level first.'
    case 'too-many-columns':
      return `There are at most ${refusal.most} columns of one’s own. Take one out first.`
    case 'not-for-a-set':
      return `${quoted(refusal.name)} can’t be part of a set: ${NOT_FOR_A_SET[refusal.why]}`
    case 'too-many-pieces':
      return `A set has at most ${refusal.most} pieces, and this one would have ${refusal.received}. Make two sets of it.`
    case 'set-has-no-time':
      return 'A set has no time: its pieces stand still and show one drawing each, in all its shots. Make this piece the shot’s own first, then key or expose that.'
    case 'set-has-no-references':
      return 'A set has no time, so no sequence of pictures can be a reference in it. Bring it into the shot itself.'
    case 'piece-stays':
      return 'A piece stays in its set, or hangs on another piece of it. To fasten it elsewhere, make it this shot’s own first.'
    case 'piece-carries':
      return 'A level of the shot hangs on a whole set, not on one piece of it: other shots have that piece too. Fasten it to the set, or make the piece this shot’s own first.'
    case 'piece-followed':
      return 'A camera goes after a whole set, not after one piece of it. Choose the set, or make the piece this shot’s own first.'
    case 'set-in-use':
      return `${quoted(refusal.name)} stands in ${refusal.shots === 1 ? 'a shot' : `${refusal.shots} shots`}. Take it out of ${refusal.shots === 1 ? 'that' : 'those'} first.`
    case 'spread-ends':
      return 'The near end must lie before the lens and the far end behind the near one.'
    case 'ground-gone':
      return 'What this was done to has been taken out since, so it can’t be put back. Bring that back first, or leave it.'
    case 'depth-not-finite':
      return 'A depth is a number of frame widths.'
    case 'depth-behind-lens':
      return `The lens stands at ${fw(refusal.lensDepth)}. At ${fw(refusal.depth)} the level would be behind it; choose a greater depth.`
    case 'level-behind-lens':
      return `This level is behind the lens (at ${fw(refusal.lensDepth)}), so there is no picture to keep. Turn Keep the picture off to move it.`
    case 'stale':
      return 'This was changed meanwhile. What you see now is the newest.'
    case 'malformed':
      return `That value can’t be kept (${refusal.path.join(' › ')}: ${refusal.message}).`
  }
}
