/** What makes a sample doubtful, or what it was lost for. The numbers are stored in files, in a byte; never renumber them. */
export const Reason = {
  none: 0,
  /** It is like what the template shows, but not as much as it was. */
  unlike: 1,
  /** Part of the box shows something else. */
  covered: 2,
  /** Too little texture for the noise. */
  faint: 3,
  /** Held across an edge, and not along it. */
  slides: 4,
  /** Its texture does not tell how it has turned or grown. */
  turn: 5,
  /** Parts of the box go their own ways. */
  parted: 6,
  /** A codec may have moved it unseen. */
  coded: 7,
  /** A distractor is as near. */
  double: 8,
  /** It went where nothing leads, maybe to a distractor. */
  leapt: 9,
  /** A later look than the key's decides, which may have drifted. */
  adapted: 10,
  /** What was found from the key before and from the key after lies apart. */
  passes: 11,
  /** Nothing like it was found. */
  missing: 12,
  /** What is like it lies where it cannot have gone. */
  elsewhere: 13,
  /** Another shot begins. */
  cut: 14,
  /** It has left the picture. */
  outside: 15,
} as const;
export type Reason = (typeof Reason)[keyof typeof Reason];

export type ReasonName = keyof typeof Reason;

/** As files have them, by number. */
export const reasonNames = Object.keys(Reason) as readonly ReasonName[];

/** As people are told, to go on after a colon. */
export const reasonWords: Readonly<Record<ReasonName, string>> = {
  none: '',
  unlike: 'it looks other than in the key',
  covered: 'part of the box shows something else',
  faint: 'too little texture holds the box',
  slides: 'it can slide along an edge',
  turn: 'its texture does not tell how it turns',
  parted: 'parts of the box move apart',
  coded: 'compression may hide how it moves',
  double: 'something just like it is near',
  leapt: 'it may have jumped to something alike',
  adapted: 'it has changed since the key',
  passes: 'from the two keys it comes out apart',
  missing: 'nothing like it was found',
  elsewhere: 'what is like it lies where it cannot be',
  cut: 'another shot begins',
  outside: 'it has left the picture',
};
