import { INK, PAPER, type LineStyle, type Pen, type Place } from './pen'

/** Joints from the hip or shoulder, as fractions of the figure's height; x forward. */
export interface Pose {
  readonly lean: number
  readonly legs: readonly [readonly [Place, Place], readonly [Place, Place]]
  readonly farArm: readonly [Place, Place]
  readonly lantern: Place
  readonly scarf: number
  /** −1 looks back. */
  readonly look: 1 | -1
  readonly mouthOpen?: boolean
}

export const POSES = {
  setsOff: { lean: 0.05, legs: [[[0.1, -0.17], [0.07, -0.36]], [[-0.06, -0.19], [-0.2, -0.33]]], farArm: [[-0.12, -0.12], [-0.05, -0.24]], lantern: [0.2, -0.07], scarf: 0.02, look: 1 },
  fullRun: { lean: 0.11, legs: [[[0.17, -0.12], [0.25, -0.3]], [[-0.12, -0.16], [-0.31, -0.2]]], farArm: [[-0.16, -0.06], [-0.12, -0.2]], lantern: [0.25, -0.01], scarf: 0.09, look: 1 },
  sees: { lean: 0.03, legs: [[[0.07, -0.18], [0.12, -0.36]], [[-0.07, -0.19], [-0.12, -0.36]]], farArm: [[-0.11, -0.13], [-0.06, -0.25]], lantern: [0.2, -0.06], scarf: 0.05, look: 1, mouthOpen: true },
  passes: { lean: 0.09, legs: [[[0.15, -0.14], [0.14, -0.34]], [[-0.1, -0.18], [-0.27, -0.27]]], farArm: [[-0.14, -0.09], [-0.08, -0.22]], lantern: [0.24, -0.03], scarf: 0.07, look: 1 },
  stops: { lean: -0.03, legs: [[[0.06, -0.18], [0.1, -0.36]], [[-0.03, -0.19], [-0.05, -0.36]]], farArm: [[-0.1, -0.14], [-0.02, -0.25]], lantern: [0.17, -0.1], scarf: 0.0, look: 1 },
  turnsBack: { lean: -0.05, legs: [[[0.06, -0.18], [0.12, -0.36]], [[-0.07, -0.18], [-0.1, -0.36]]], farArm: [[-0.17, -0.05], [-0.27, 0.0]], lantern: [0.17, -0.1], scarf: 0.04, look: -1, mouthOpen: true },
} as const satisfies Record<string, Pose>

/** Where her hand holds the lantern while she runs, in every drawing of it. */
const RUN_LANTERN: Place = [0.22, -0.04]
/** How far her hip and her neck are from where she stands, as in `drawTilda`. */
const RUN_LEAN = 0.1

/** One of a run's drawings: `phase` 0…1 goes through both steps. */
export function runPose(phase: number): Pose {
  const leg = (at: number): readonly [Place, Place] => {
    const turn = 2 * Math.PI * at
    const thigh = 0.8 * Math.sin(turn)
    // The foot that comes forward is lifted.
    const shin = thigh - 0.2 - 1.1 * Math.max(0, Math.cos(turn))
    const knee: Place = [0.2 * Math.sin(thigh), -0.2 * Math.cos(thigh)]
    return [knee, [knee[0] + 0.2 * Math.sin(shin), knee[1] - 0.2 * Math.cos(shin)]]
  }
  const arm = Math.sin(2 * Math.PI * phase)
  return { lean: RUN_LEAN, legs: [leg(phase), leg(phase + 0.5)], farArm: [[-0.1 - 0.05 * arm, -0.1], [-0.04 - 0.14 * arm, -0.19 + 0.05 * arm]], lantern: RUN_LANTERN, scarf: 0.06 + 0.03 * Math.cos(4 * Math.PI * phase), look: 1 }
}

/** Where the lantern hangs from her hand, from where she stands. */
export function handOf(height: number): Place {
  return [(RUN_LEAN - 0.01 + RUN_LANTERN[0] + 0.01) * height, (0.66 - 0.05 + RUN_LANTERN[1]) * height]
}

/** Tilda, standing at `x` on the ground `y`, `height` tall, with cap and scarf; the lantern too unless it is a level of its own. */
export function drawTilda(pen: Pen, x: number, y: number, height: number, pose: Pose, lantern = true): void {
  const h = height
  const line: LineStyle = { width: 0.021 * h, wobble: 0.0035 * h }
  const hip: Place = [x, y + 0.38 * h]
  const neck: Place = [x + pose.lean * h, y + 0.66 * h]
  const shoulder: Place = [neck[0] - 0.01 * h, neck[1] - 0.05 * h]
  const from = (base: Place, by: Place): Place => [base[0] + by[0] * h, base[1] + by[1] * h]

  // Far arm and legs lie under the dress.
  pen.line([shoulder, from(shoulder, pose.farArm[0]), from(shoulder, pose.farArm[1])], line)
  for (const [i, [knee, foot]] of pose.legs.entries()) {
    const base: Place = [hip[0] + (i === 0 ? 0.03 : -0.04) * h, hip[1] + 0.02 * h]
    const end = from(base, foot)
    pen.line([base, from(base, knee), end], { ...line, width: 0.026 * h })
    pen.line([end, [end[0] + 0.07 * h, end[1] - 0.005 * h]], { ...line, width: 0.034 * h, taper: 0.2 })
  }
  // Dress.
  pen.shape(
    [
      [neck[0] - 0.09 * h, neck[1] - 0.015 * h],
      [neck[0] + 0.08 * h, neck[1] - 0.02 * h],
      [hip[0] + 0.15 * h + pose.lean * 0.3 * h, hip[1] - 0.01 * h],
      [hip[0] + 0.02 * h, hip[1] - 0.045 * h],
      [hip[0] - 0.15 * h, hip[1] + 0.0 * h],
    ],
    line,
  )
  pen.line([[hip[0] - 0.05 * h, hip[1] + 0.02 * h], [hip[0] - 0.03 * h, hip[1] + 0.1 * h]], { ...line, width: 0.012 * h })
  pen.line([[hip[0] + 0.05 * h, hip[1] + 0.01 * h], [hip[0] + 0.06 * h, hip[1] + 0.07 * h]], { ...line, width: 0.012 * h })
  // Head.
  const head: Place = [neck[0] + 0.025 * h * pose.look, neck[1] + 0.155 * h]
  const r = 0.155 * h
  const tail = -pose.look
  pen.line(
    [
      [head[0] + tail * r * 0.85, head[1] + 0.02 * h],
      [head[0] + tail * (r + 0.08 * h), head[1] - 0.03 * h + pose.scarf * h * 0.5],
      [head[0] + tail * (r + 0.16 * h), head[1] - 0.11 * h + pose.scarf * h * 1.6],
    ],
    { ...line, width: 0.028 * h },
  )
  pen.shape(pen.ellipse(head[0], head[1], r, r * 0.98), line)
  // Cap: the upper part of the head, dark, with a peak.
  const cap: Place[] = []
  for (let i = 0; i <= 9; i++) {
    const angle = Math.PI * (0.06 + (0.9 * i) / 9)
    cap.push([head[0] + pose.look * r * 1.04 * Math.cos(angle), head[1] + r * 1.05 * Math.sin(angle)])
  }
  cap.push([head[0] - pose.look * r * 0.35, head[1] + r * 0.42])
  cap.push([head[0] + pose.look * r * 0.4, head[1] + r * 0.4])
  pen.fill(cap, INK, 0.92)
  pen.line([[head[0] + pose.look * r * 0.7, head[1] + r * 0.44], [head[0] + pose.look * r * 1.38, head[1] + r * 0.3]], { ...line, width: 0.03 * h })
  // Eye and mouth.
  const eye: Place = [head[0] + pose.look * r * 0.5, head[1] + r * 0.02]
  pen.fill(pen.ellipse(eye[0], eye[1], 0.026 * h, 0.031 * h), INK)
  const mouth: Place = [head[0] + pose.look * r * 0.62, head[1] - r * 0.45]
  if (pose.mouthOpen === true) pen.fill(pen.ellipse(mouth[0], mouth[1], 0.02 * h, 0.026 * h), INK)
  else pen.line([[mouth[0] - pose.look * 0.025 * h, mouth[1] + 0.004 * h], mouth, [mouth[0] + pose.look * 0.02 * h, mouth[1] + 0.012 * h]], { ...line, width: 0.013 * h })
  // Scarf.
  pen.fill([[neck[0] - 0.075 * h, neck[1] - 0.03 * h], [neck[0] + 0.075 * h, neck[1] - 0.03 * h], [neck[0] + 0.085 * h, neck[1] + 0.025 * h], [neck[0] - 0.08 * h, neck[1] + 0.025 * h]], '#b9b3a3')
  pen.line([[neck[0] - 0.08 * h, neck[1] + 0.02 * h], [neck[0] + 0.085 * h, neck[1] + 0.018 * h]], { ...line, width: 0.014 * h })
  pen.line([[neck[0] - 0.08 * h, neck[1] - 0.03 * h], [neck[0] + 0.08 * h, neck[1] - 0.034 * h]], { ...line, width: 0.014 * h })
  // Near arm and lantern.
  const hand = from(shoulder, pose.lantern)
  pen.line([[shoulder[0] + 0.05 * h, shoulder[1] - 0.01 * h], [shoulder[0] + pose.lantern[0] * 0.55 * h, shoulder[1] + pose.lantern[1] * 0.9 * h - 0.03 * h], hand], line)
  if (lantern) drawLantern(pen, hand[0] + 0.01 * h, hand[1], h)
}

export function drawLantern(pen: Pen, x: number, y: number, h: number): void {
  const top = y - 0.045 * h
  const w = 0.052 * h
  const tall = 0.13 * h
  pen.wash(circle(x, top - tall / 2, 0.17 * h), '#f6e2a0', 0.28)
  pen.line([[x - w, top], [x - w * 0.8, y + 0.012 * h], [x + w * 0.8, y + 0.012 * h], [x + w, top]], { width: 0.013 * h, wobble: 0.002 * h })
  pen.shape([[x - w, top], [x + w, top], [x + w, top - tall], [x - w, top - tall]], { fill: '#f3cf62', width: 0.019 * h, wobble: 0.002 * h })
  pen.line([[x - w * 1.25, top], [x + w * 1.25, top]], { width: 0.024 * h, wobble: 0.001 * h })
  pen.line([[x - w * 1.25, top - tall], [x + w * 1.25, top - tall]], { width: 0.024 * h, wobble: 0.001 * h })
}

export function circle(cx: number, cy: number, r: number): Place[] {
  return Array.from({ length: 28 }, (_, i) => [cx + r * Math.cos((i / 14) * Math.PI), cy + r * Math.sin((i / 14) * Math.PI)] as const)
}

export interface GoosePose {
  /** How far the neck reaches forward and up, as fractions of the height. */
  readonly head: Place
  readonly wings: number
  readonly step: number
  readonly look: 1 | -1
  readonly honk?: boolean
}

export const GOOSE_POSES = {
  follows: { head: [0.34, 0.38], wings: 0.05, step: 0.06, look: 1 },
  runs: { head: [0.47, 0.26], wings: 0.22, step: 0.14, look: 1 },
  alert: { head: [0.26, 0.47], wings: 0.02, step: 0.03, look: 1 },
  hurries: { head: [0.42, 0.32], wings: 0.16, step: 0.12, look: 1 },
  dead: { head: [0.18, 0.5], wings: 0.0, step: 0.0, look: 1 },
  honks: { head: [0.32, 0.46], wings: 0.26, step: 0.02, look: 1, honk: true },
} as const satisfies Record<string, GoosePose>

/** The flapping run of a goose that is late, drawing by drawing. */
export const GOOSE_RUN: readonly GoosePose[] = [
  { head: [0.46, 0.27], wings: 0.26, step: 0.13, look: 1 },
  { head: [0.48, 0.24], wings: 0.12, step: 0.05, look: 1 },
  { head: [0.46, 0.28], wings: 0.01, step: 0.14, look: 1 },
  { head: [0.44, 0.3], wings: 0.14, step: 0.04, look: 1 },
]

/** A moth, wings open (1) or closed (0). */
export function drawMoth(pen: Pen, x: number, y: number, size: number, open: number): void {
  for (const side of [-1, 1]) pen.shape([[x, y], [x + side * size * (0.4 + 0.5 * open), y + size * 0.55], [x + side * size * (0.5 + 0.6 * open), y + size * 0.1], [x + side * size * 0.2, y - size * 0.25]], { fill: '#e8dfc4', width: size * 0.1, wobble: size * 0.01 })
  pen.line([[x, y + size * 0.3], [x, y - size * 0.35]], { width: size * 0.16 })
}

/** Brisket the goose, body over `x`, feet on `y`, `height` to the crown when it stretches. */
export function drawGoose(pen: Pen, x: number, y: number, height: number, pose: GoosePose): void {
  const h = height
  const line: LineStyle = { width: 0.026 * h, wobble: 0.004 * h }
  const body: Place = [x, y + 0.36 * h]
  const chest: Place = [x + 0.2 * h, y + 0.42 * h]
  const head: Place = [x + 0.12 * h + pose.head[0] * h, y + 0.42 * h + pose.head[1] * h]
  for (const side of [-1, 1]) {
    const foot: Place = [x + side * (0.05 + pose.step) * h, y]
    pen.line([[x + side * 0.05 * h, y + 0.2 * h], [x + side * (0.05 + pose.step * 0.3) * h, y + 0.1 * h], foot], { ...line, width: 0.022 * h })
    pen.line([[foot[0] - 0.02 * h, y], [foot[0] + 0.09 * h, y]], { ...line, width: 0.03 * h, taper: 0.2 })
  }
  const neckTop: Place = [head[0] - 0.07 * h, head[1] - 0.03 * h]
  const neckFront: Place = [head[0] + 0.01 * h, head[1] - 0.07 * h]
  pen.shape(
    [
      [x - 0.42 * h, y + 0.5 * h],
      [x - 0.16 * h, y + 0.5 * h],
      [chest[0] - 0.1 * h, chest[1] + 0.09 * h],
      [(chest[0] + neckTop[0]) / 2 - 0.08 * h, (chest[1] + neckTop[1]) / 2 + 0.05 * h],
      neckTop,
      [head[0] - 0.01 * h, head[1] + 0.05 * h],
      [head[0] + 0.08 * h, head[1] + 0.02 * h],
      neckFront,
      [(chest[0] + neckFront[0]) / 2 + 0.05 * h, (chest[1] + neckFront[1]) / 2 - 0.03 * h],
      [chest[0] + 0.08 * h, chest[1] - 0.06 * h],
      [body[0] + 0.1 * h, body[1] - 0.17 * h],
      [body[0] - 0.12 * h, body[1] - 0.16 * h],
      [x - 0.34 * h, y + 0.34 * h],
    ],
    line,
  )
  // Wing.
  const lift = pose.wings * h
  pen.shape(
    [
      [x + 0.1 * h, y + 0.44 * h],
      [x - 0.06 * h, y + 0.46 * h + lift * 0.9],
      [x - 0.3 * h, y + 0.42 * h + lift],
      [x - 0.2 * h, y + 0.34 * h + lift * 0.4],
      [x - 0.02 * h, y + 0.3 * h],
    ],
    { ...line, width: 0.02 * h, fill: '#e9e4d6' },
  )
  pen.line([[x - 0.22 * h, y + 0.4 * h + lift * 0.7], [x - 0.04 * h, y + 0.39 * h + lift * 0.3]], { ...line, width: 0.013 * h })
  // Beak and eye.
  const beakY = head[1] - 0.005 * h
  if (pose.honk === true) {
    pen.shape([[head[0] + 0.07 * h, beakY + 0.035 * h], [head[0] + 0.21 * h, beakY + 0.06 * h], [head[0] + 0.09 * h, beakY]], { ...line, width: 0.017 * h, fill: '#6b6455' })
    pen.shape([[head[0] + 0.07 * h, beakY - 0.01 * h], [head[0] + 0.18 * h, beakY - 0.06 * h], [head[0] + 0.06 * h, beakY - 0.05 * h]], { ...line, width: 0.017 * h, fill: '#6b6455' })
  } else {
    pen.shape([[head[0] + 0.07 * h, beakY + 0.035 * h], [head[0] + 0.2 * h, beakY - 0.005 * h], [head[0] + 0.06 * h, beakY - 0.035 * h]], { ...line, width: 0.017 * h, fill: '#6b6455' })
  }
  pen.fill(pen.ellipse(head[0] + 0.022 * h, head[1] + 0.012 * h, 0.017 * h, 0.02 * h), INK)
}

/** Oskar, the keeper, seen from afar on the gallery: coat, beard, cap. */
export function drawOskar(pen: Pen, x: number, y: number, height: number, looksUp: boolean): void {
  const h = height
  const line: LineStyle = { width: 0.03 * h, wobble: 0.004 * h }
  pen.shape([[x - 0.15 * h, y + 0.62 * h], [x + 0.13 * h, y + 0.62 * h], [x + 0.2 * h, y], [x - 0.2 * h, y]], { ...line, fill: '#cfc9ba' })
  const head: Place = [x + (looksUp ? -0.03 : 0.03) * h, y + 0.77 * h]
  pen.shape(pen.ellipse(head[0], head[1], 0.16 * h, 0.16 * h), line)
  const tilt = looksUp ? 0.1 : -0.02
  pen.fill([[head[0] - 0.17 * h, head[1] + 0.02 * h], [head[0] - 0.1 * h, head[1] + 0.17 * h], [head[0] + 0.1 * h, head[1] + (0.15 + tilt) * h], [head[0] + 0.18 * h, head[1] + (0.05 + tilt) * h]], INK, 0.92)
  pen.fill([[head[0] - 0.02 * h, head[1] - 0.05 * h], [head[0] + 0.16 * h, head[1] - (0.05 - tilt) * h], [head[0] + 0.1 * h, head[1] - 0.24 * h], [head[0] - 0.05 * h, head[1] - 0.17 * h]], PAPER)
  pen.line([[head[0] - 0.02 * h, head[1] - 0.06 * h], [head[0] + 0.02 * h, head[1] - 0.2 * h], [head[0] + 0.1 * h, head[1] - 0.24 * h], [head[0] + 0.16 * h, head[1] - 0.05 * h]], { ...line, width: 0.018 * h })
  pen.fill(pen.ellipse(head[0] + 0.08 * h, head[1] + tilt * 0.35 * h, 0.022 * h), INK)
  const hand: Place = looksUp ? [x + 0.33 * h, y + 0.8 * h] : [x + 0.27 * h, y + 0.33 * h]
  pen.line([[x + 0.1 * h, y + 0.55 * h], [x + 0.26 * h, y + (looksUp ? 0.6 : 0.42) * h], hand], line)
}
