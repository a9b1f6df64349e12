/** The lines of each kind of vessel on a 160 × 150 sheet. Where the water stands comes from the core. */
export interface Form {
  /** The body of water: left, top, width, height. */
  tank: [number, number, number, number]
  /** Ink lines besides the tank. */
  lines: string[]
  /** Thin lines: pipes, sprays, trickles. */
  thin: string[]
  /** Where plants stand, and how long their roots hang. */
  spots: [number, number, number][]
}

const row = (count: number, from: number, to: number, y: number, roots: number): [number, number, number][] =>
  Array.from({ length: count }, (_, i) => [from + ((to - from) * (i + 0.5)) / count, y, roots])

const small: Form['tank'] = [38, 100, 84, 42]
const whole: Form['tank'] = [22, 50, 116, 92]

export const FORMS: Record<string, Form> = {
  tub: { tank: whole, lines: ['M14 50H146'], thin: [], spots: row(3, 28, 132, 50, 52) },
  raft: {
    tank: whole,
    lines: ['M24 60H136V68H24Z'],
    thin: ['M80 142V128M70 142V134M90 142V134'],
    spots: row(4, 26, 134, 60, 46),
  },
  bucket: {
    tank: [44, 58, 72, 84],
    lines: ['M38 58H122', 'M68 58L71 70H89L92 58'],
    thin: ['M80 142V130M72 142V135M88 142V135'],
    spots: [[80, 58, 52]],
  },
  buckets: {
    tank: [14, 66, 38, 76],
    lines: ['M61 66L64 142H96L99 66M108 66L111 142H143L146 66', 'M10 66H56M59 66H101M106 66H148'],
    thin: ['M50 132H64M96 132H111'],
    spots: [
      [33, 66, 40],
      [80, 66, 40],
      [127, 66, 40],
    ],
  },
  channels: {
    tank: small,
    lines: ['M14 36L134 46V56L14 46Z', 'M14 70L134 80V90L14 80Z'],
    thin: ['M134 51H142V112H122M134 85H142', 'M38 128H8V41H14M8 75H14'],
    spots: [
      [30, 41, 9],
      [62, 43, 9],
      [94, 46, 9],
      [46, 71, 9],
      [78, 73, 9],
      [110, 76, 9],
    ],
  },
  mat: {
    tank: small,
    lines: ['M14 72H146V82H14Z', 'M22 82V142M138 82V142'],
    thin: ['M18 77H142', 'M60 100V82M100 82V100'],
    spots: row(5, 20, 140, 72, 8),
  },
  tower: {
    tank: [40, 104, 80, 38],
    lines: ['M66 104V16H94V104', 'M34 104H126'],
    thin: ['M80 100V22', 'M72 24V98M88 24V98'],
    spots: [
      [66, 34, 10],
      [94, 46, 10],
      [66, 58, 10],
      [94, 70, 10],
      [66, 82, 10],
    ],
  },
  tote: {
    tank: whole,
    lines: ['M14 50H146'],
    thin: [
      'M46 142V112M46 112l-9-12M46 112l0-14M46 112l9-12',
      'M80 142V112M80 112l-9-12M80 112l0-14M80 112l9-12',
      'M114 142V112M114 112l-9-12M114 112l0-14M114 112l9-12',
    ],
    spots: row(4, 26, 134, 50, 34),
  },
  table: {
    tank: small,
    lines: ['M16 58L20 82H140L144 58', 'M26 82V142M134 82V142'],
    thin: ['M70 82V100M92 100V82', 'M20 74H140'],
    spots: row(4, 24, 136, 62, 14),
  },
  drip: {
    tank: small,
    lines: ['M24 56L28 84H60L64 56Z', 'M96 56L100 84H132L136 56Z', 'M14 88H146'],
    thin: ['M80 100V34H44V48M80 34H116V48', 'M44 84V88M116 84V88'],
    spots: [
      [36, 56, 18],
      [52, 56, 18],
      [108, 56, 18],
      [124, 56, 18],
    ],
  },
  waste: {
    tank: [14, 98, 62, 44],
    lines: [
      'M24 42L28 68H52L56 42Z',
      'M64 42L68 68H92L96 42Z',
      'M104 42L108 68H132L136 42Z',
      'M14 72L18 80H138L142 72',
      'M98 116L102 142H132L136 116',
    ],
    thin: ['M30 98V88H8V22H120V36M40 22V36M80 22V36', 'M117 80V110'],
    spots: [
      [40, 42, 16],
      [80, 42, 16],
      [120, 42, 16],
    ],
  },
  rack: {
    tank: small,
    lines: ['M18 8V142M142 8V142', 'M18 46H142V54H18Z', 'M18 80H142V88H18Z'],
    thin: ['M24 10H136', 'M38 128H28V50'],
    spots: [...row(4, 24, 136, 46, 6), ...row(4, 24, 136, 80, 6)],
  },
}
