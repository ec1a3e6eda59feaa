import { circle } from './figures'
import { PALE_INK, PAPER, SOFT_INK, type Pen, type Place } from './pen'

/** Sky from `left` to `right`, in the frame as the untouched camera would see it. */
export function drawSky(pen: Pen, left: number, right: number, tone = '#ece8da'): void {
  pen.wash([[left, -0.06], [right, -0.06], [right, 0.5], [left, 0.5]], tone)
  pen.wash([[left, -0.06], [right, -0.06], [right, 0.05], [left, 0.045]], '#f3eee0', 0.8)
  pen.wash([[left, 0.3], [right, 0.33], [right, 0.5], [left, 0.5]], '#e2ddcd', 0.7)
  const span = right - left
  for (let i = 0; i < 6; i++) {
    const x = left + span * ((i + pen.chance(0.2, 0.8)) / 6)
    const y = pen.chance(0.1, 0.26)
    const w = pen.chance(0.06, 0.13)
    const puff: Place[] = []
    for (let j = 0; j <= 6; j++) puff.push([x - w + (2 * w * j) / 6, y + Math.sin((j / 6) * Math.PI) * w * 0.28 * (j % 2 === 0 ? 1 : 1.35)])
    pen.line(puff, { width: 0.0028, colour: PALE_INK, wobble: 0.0016 })
  }
  pen.line(Array.from({ length: 9 }, (_, i) => [left + (span * i) / 8, 0.055 + pen.chance(-0.006, 0.006)] as const), { width: 0.0024, colour: PALE_INK, opacity: 0.8 })
}

/** Three gulls, as ticks of the pen. */
export function drawGulls(pen: Pen, x: number, y: number): void {
  for (const [dx, dy, s] of [[0, 0, 1], [0.05, 0.02, 0.7], [0.085, -0.008, 0.55]] as const) {
    const w = 0.018 * s
    pen.line([[x + dx - w, y + dy + w * 0.45], [x + dx - w * 0.4, y + dy + w * 0.55], [x + dx, y + dy], [x + dx + w * 0.4, y + dy + w * 0.6], [x + dx + w, y + dy + w * 0.4]], { width: 0.0026, colour: SOFT_INK })
  }
}

/** Water from the horizon at `horizon` down. */
export function drawSea(pen: Pen, left: number, right: number, horizon: number, bottom: number): void {
  pen.wash([[left, horizon], [right, horizon], [right, bottom], [left, bottom]], '#d9d6c8')
  pen.wash([[left, horizon - 0.06], [right, horizon - 0.075], [right, bottom], [left, bottom]], '#d0ccbd', 0.6)
  pen.line([[left, horizon], [(left + right) / 2, horizon + 0.001], [right, horizon]], { width: 0.0032, colour: '#6b6455', taper: 0 })
  const rows = 7
  for (let row = 0; row < rows; row++) {
    const y = horizon - 0.015 - (row / rows) ** 1.4 * (horizon - bottom - 0.03)
    const count = Math.round((right - left) * (10 - row * 0.7))
    for (let i = 0; i < count; i++) {
      const x = left + ((right - left) * (i + pen.chance(0, 0.9))) / count
      const w = pen.chance(0.012, 0.03) * (0.7 + row * 0.16)
      const dy = pen.chance(-0.006, 0.006)
      pen.line([[x - w, y + dy], [x - w * 0.3, y + dy + w * 0.14], [x + w * 0.3, y + dy - w * 0.06], [x + w, y + dy + w * 0.1]], { width: 0.002 + row * 0.00016, colour: SOFT_INK, opacity: 0.75 })
    }
  }
}

/** The lighthouse on its rock, its base at (x, y), `height` tall, with the beam where one is wanted. */
export function drawLighthouse(pen: Pen, x: number, y: number, height: number, beam: number | null): void {
  const h = height
  const lamp: Place = [x, y + 0.83 * h]
  if (beam !== null) {
    // The beam widens with its length; a short one falters and ends ragged.
    const wide = beam * 0.3
    pen.fill([lamp, [x - beam * 0.5, lamp[1] + wide * 0.36], [x - beam, lamp[1] + wide * 0.75], [x - beam * 0.94, lamp[1] + wide * 0.3], [x - beam, lamp[1] - wide * 0.22], [x - beam * 0.5, lamp[1] - wide * 0.1]], '#f6e5ae', 0.62)
    pen.fill([lamp, [x - beam * 0.5, lamp[1] + wide * 0.26], [x - beam * 0.92, lamp[1] + wide * 0.5], [x - beam * 0.9, lamp[1] + wide * 0.02], [x - beam * 0.5, lamp[1] - wide * 0.02]], '#f8ecc4', 0.55)
  }
  const line = { width: 0.0105 * h, wobble: 0.0022 * h }
  pen.shape([[x - 0.46 * h, y - 0.09 * h], [x - 0.3 * h, y + 0.02 * h], [x - 0.12 * h, y + 0.05 * h], [x + 0.14 * h, y + 0.05 * h], [x + 0.33 * h, y + 0.01 * h], [x + 0.5 * h, y - 0.09 * h]], { ...line, fill: '#e6e1d2' })
  pen.hatch(x - 0.32 * h, x + 0.34 * h, y - 0.07 * h, y + 0.01 * h, 16, 0.5, { width: 0.006 * h })
  const tower: Place[] = [[x - 0.15 * h, y + 0.04 * h], [x - 0.095 * h, y + 0.7 * h], [x + 0.095 * h, y + 0.7 * h], [x + 0.15 * h, y + 0.04 * h]]
  pen.wash(tower, PAPER)
  pen.wash([[x - 0.127 * h, y + 0.32 * h], [x + 0.127 * h, y + 0.32 * h], [x + 0.116 * h, y + 0.45 * h], [x - 0.116 * h, y + 0.45 * h]], '#8d877a')
  pen.line([tower[0]!, tower[1]!], line).line([tower[3]!, tower[2]!], line)
  pen.line([tower[0]!, [x, y + 0.03 * h], tower[3]!], line)
  pen.hatch(x + 0.05 * h, x + 0.125 * h, y + 0.08 * h, y + 0.3 * h, 6, -0.06, { width: 0.005 * h, opacity: 0.8 })
  pen.hatch(x + 0.045 * h, x + 0.1 * h, y + 0.48 * h, y + 0.68 * h, 5, -0.05, { width: 0.005 * h, opacity: 0.8 })
  pen.shape([[x - 0.028 * h, y + 0.54 * h], [x + 0.022 * h, y + 0.54 * h], [x + 0.022 * h, y + 0.61 * h], [x - 0.028 * h, y + 0.61 * h]], { ...line, width: 0.007 * h, fill: '#8d877a' })
  pen.shape([[x - 0.03 * h, y + 0.045 * h], [x + 0.03 * h, y + 0.045 * h], [x + 0.03 * h, y + 0.14 * h], [x, y + 0.165 * h], [x - 0.03 * h, y + 0.14 * h]], { ...line, width: 0.007 * h, fill: '#b9b3a3' })
  // Gallery, lamp room, roof.
  pen.shape([[x - 0.145 * h, y + 0.7 * h], [x + 0.145 * h, y + 0.7 * h], [x + 0.14 * h, y + 0.735 * h], [x - 0.14 * h, y + 0.735 * h]], line)
  for (let i = 0; i <= 8; i++) pen.line([[x - 0.135 * h + (0.27 * h * i) / 8, y + 0.735 * h], [x - 0.135 * h + (0.27 * h * i) / 8, y + 0.785 * h]], { width: 0.005 * h, wobble: 0.001 * h })
  pen.line([[x - 0.142 * h, y + 0.786 * h], [x + 0.142 * h, y + 0.786 * h]], { width: 0.007 * h, wobble: 0.001 * h })
  pen.shape([[x - 0.075 * h, y + 0.735 * h], [x + 0.075 * h, y + 0.735 * h], [x + 0.075 * h, y + 0.895 * h], [x - 0.075 * h, y + 0.895 * h]], line)
  pen.fill(circle(lamp[0], lamp[1], 0.04 * h), '#edb73f')
  pen.wash(circle(lamp[0], lamp[1], 0.075 * h), '#f6e2a0', 0.45)
  pen.line([[x - 0.025 * h, y + 0.735 * h], [x - 0.025 * h, y + 0.895 * h]], { width: 0.005 * h }).line([[x + 0.025 * h, y + 0.735 * h], [x + 0.025 * h, y + 0.895 * h]], { width: 0.005 * h })
  pen.fill([[x - 0.105 * h, y + 0.89 * h], [x - 0.06 * h, y + 0.96 * h], [x, y + 0.985 * h], [x + 0.06 * h, y + 0.96 * h], [x + 0.105 * h, y + 0.89 * h]], '#4d483d')
  pen.line([[x, y + 0.98 * h], [x, y + 1.03 * h]], { width: 0.008 * h })
}

/** Reeds along a strip: stems with a few cattails, `tall` at most. */
export function drawReeds(pen: Pen, left: number, right: number, base: number, tall: number, count: number, style: { readonly width: number; readonly colour: string; readonly opacity?: number }): void {
  for (let i = 0; i < count; i++) {
    const x = left + ((right - left) * (i + pen.chance(0, 1))) / count
    const h = tall * pen.chance(0.45, 1)
    const bend = pen.chance(-0.1, 0.16) * h
    const tip: Place = [x + bend, base + h]
    pen.line([[x, base], [x + bend * 0.25, base + h * 0.55], tip], { width: style.width, colour: style.colour, opacity: style.opacity ?? 1, taper: 0.75 })
    if (pen.chance(0, 1) < 0.4) {
      const head = style.width * 2.1
      const cy = base + h * 0.93
      const cx = x + bend * 0.9
      pen.fill(pen.ellipse(cx, cy, head * 0.75, head * 2.9), style.colour, style.opacity ?? 1, style.width * 0.1)
    } else if (pen.chance(0, 1) < 0.5) {
      pen.line([[x + bend * 0.2, base + h * 0.35], [x + bend * 0.4 + h * 0.12, base + h * 0.6], [x + bend * 0.4 + h * 0.26, base + h * 0.62]], { width: style.width * 0.8, colour: style.colour, opacity: style.opacity ?? 1, taper: 0.9 })
    }
  }
}

/** The boardwalk: planks on posts, its walking edge at `top`. */
export function drawBoardwalk(pen: Pen, left: number, right: number, top: number, thick: number): void {
  pen.wash([[left, top], [right, top], [right, top - thick], [left, top - thick]], '#e2dac2')
  pen.wash([[left, top - thick * 0.72], [right, top - thick * 0.72], [right, top - thick], [left, top - thick]], '#c9c0a6')
  for (let x = left + 0.03; x < right; x += pen.chance(0.07, 0.095)) pen.line([[x, top], [x + pen.chance(-0.002, 0.002), top - thick * 0.74]], { width: 0.0026 })
  pen.line([[left, top], [(left + right) / 2, top + 0.001], [right, top]], { width: 0.0048, taper: 0 })
  pen.line([[left, top - thick * 0.74], [right, top - thick * 0.74]], { width: 0.0026, taper: 0 })
  pen.line([[left, top - thick], [right, top - thick]], { width: 0.0042, taper: 0 })
  for (let x = left + 0.1; x < right; x += 0.31) {
    pen.shape([[x, top - thick], [x + 0.022, top - thick], [x + 0.021, top - thick - 0.12], [x + 0.001, top - thick - 0.12]], { fill: '#b9b09a', width: 0.0036 })
  }
}

/** A rail of posts and one rope, close to the lens. */
export function drawRail(pen: Pen, posts: readonly number[], bottom: number, top: number, width: number): void {
  for (let i = 0; i + 1 < posts.length; i++) {
    const [a, b] = [posts[i]!, posts[i + 1]!]
    pen.line([[a, top - 0.06], [(a + b) / 2, top - 0.1], [b, top - 0.06]], { width: 0.008, colour: '#6b6455' })
  }
  for (const x of posts) {
    pen.shape([[x - width / 2, bottom], [x + width / 2, bottom], [x + width * 0.42, top], [x - width * 0.45, top - 0.006]], { fill: '#5a5447', width: 0.006 })
    pen.hatch(x - width * 0.3, x + width * 0.3, bottom + 0.02, top - 0.03, 3, 0.01, { colour: '#3a362d', width: 0.003 })
  }
}

/** Flat marsh with a few tufts, behind the walk. */
export function drawMarsh(pen: Pen, left: number, right: number, top: number, bottom: number): void {
  const edge: Place[] = []
  const steps = Math.max(4, Math.round((right - left) * 7))
  for (let i = 0; i <= steps; i++) edge.push([left + ((right - left) * i) / steps, top + pen.chance(-0.008, 0.008)])
  pen.fill([...edge, [right, bottom], [left, bottom]], '#cdc8b6')
  pen.line(edge, { width: 0.003, colour: SOFT_INK })
}

/** The marsh from above, for the plan: the boardwalk, the channel behind it, and the light on its island. */
export function drawMarshPlan(pen: Pen): void {
  const style = { width: 0.02, colour: '#8a8271', wobble: 0.006 }
  pen.line([[-2.4, 0.1], [2.4, 0.1]], style)
  pen.line([[-2.4, -0.1], [2.4, -0.1]], style)
  for (let x = -2.2; x <= 2.2; x += 0.4) pen.line([[x, -0.1], [x, 0.1]], { ...style, width: 0.012 })
  pen.line([[-2.6, 1.5], [-1.2, 1.2], [0.4, 1.6], [1.6, 1.3], [2.6, 1.5]], style)
  const island = Array.from({ length: 13 }, (_, i): [number, number] => [0.75 + Math.cos((i / 12) * Math.PI * 2) * 0.55, 2.3 + Math.sin((i / 12) * Math.PI * 2) * 0.3])
  pen.line(island, style)
  const light = Array.from({ length: 9 }, (_, i): [number, number] => [0.75 + Math.cos((i / 8) * Math.PI * 2) * 0.12, 2.3 + Math.sin((i / 8) * Math.PI * 2) * 0.12])
  pen.line(light, style)
}

/** What a lamp lights up behind it. */
export function drawLampLight(pen: Pen, x: number, y: number, reach: number): void {
  pen.fill(pen.ellipse(x, y, reach, reach * 0.86), '#efe3b4', 0.45)
  pen.fill(pen.ellipse(x, y, reach * 0.55, reach * 0.5), '#f5df96', 0.6)
}

/** The marsh by night, seen from high up: no more than a horizon and a few stars. */
export function drawNight(pen: Pen, left: number, right: number): void {
  pen.wash([[left, -0.55], [right, -0.55], [right, 0.55], [left, 0.55]], '#a4a6a3')
  pen.wash([[left, -0.55], [right, -0.55], [right, -0.04], [left, -0.035]], '#8d8f8a', 0.9)
}

/** One star; the sky has it many times. */
export const drawStar = (pen: Pen) => pen.fill(pen.ellipse(0, 0, 0.0022, 0.0022), '#e9e6da', 0.9)

/** The lamp on its stand, its foot at (x, y), `height` tall; its flame is `glow` high, 0…1. */
export function drawLamp(pen: Pen, x: number, y: number, height: number, glow: number): void {
  const h = height
  const at = (dx: number, dy: number): Place => [x + dx * h, y + dy * h]
  const line = { width: 0.006, wobble: 0.001 }
  pen.shape([at(-0.2, 0), at(0.2, 0), at(0.12, 0.1), at(-0.12, 0.1)], { ...line, fill: '#8b8577' })
  pen.shape([at(-0.05, 0.1), at(0.05, 0.1), at(0.04, 0.42), at(-0.04, 0.42)], { ...line, fill: '#a7a192' })
  pen.shape([at(-0.19, 0.42), at(0.19, 0.42), at(0.15, 0.5), at(-0.15, 0.5)], { ...line, fill: '#8b8577' })
  pen.shape([at(-0.16, 0.5), at(0.16, 0.5), at(0.19, 0.84), at(-0.19, 0.84)], { ...line, fill: '#f3eccf' })
  pen.fill([at(-0.035, 0.55), at(0.035, 0.55), at(0.012, 0.55 + 0.4 * glow), at(0, 0.58 + 0.55 * glow), at(-0.014, 0.55 + 0.36 * glow)], '#e2a93a')
  pen.shape([at(-0.21, 0.84), at(0.21, 0.84), at(0.06, 0.99), at(-0.06, 0.99)], { ...line, fill: '#6b6455' })
}

const IRON = '#4d483d'
/** How high the walls of the lamp room are closed, of their height; above that they are glass up to the band under the roof. */
const PARAPET = 0.13
const BAND = 0.86

/** A wall of the lamp room, its middle in the middle: panes between iron bars, with nothing behind the glass. `window`: its two middle bars are left out. */
export function drawPanes(pen: Pen, width: number, height: number, tone: string, window = false): void {
  const [left, right, foot, top] = [-width / 2, width / 2, -height / 2, height / 2]
  const [sill, band] = [foot + height * PARAPET, foot + height * BAND]
  pen.wash([[left, foot], [right, foot], [right, sill], [left, sill]], tone)
  pen.wash([[left, band], [right, band], [right, top], [left, top]], '#7d7768')
  const panes = Math.max(2, Math.round(width / 0.34))
  const middle = foot + height * 0.5
  const isOpen = (x: number) => window && Math.abs(x) < width * 0.2
  for (let i = 0; i <= panes; i++) {
    const x = left + (width * i) / panes
    if (!isOpen(x)) pen.line([[x, sill], [x + pen.chance(-0.002, 0.002), middle], [x, band]], { width: 0.016, colour: IRON })
  }
  for (const y of [sill, band]) pen.line([[left, y], [0, y + pen.chance(-0.002, 0.002)], [right, y]], { width: 0.012, colour: IRON })
  const reach = window ? width * 0.2 : 0
  for (const [from, to] of [[left, -reach], [reach, right]] as const) pen.line([[from, middle], [(from + to) / 2, middle + pen.chance(-0.002, 0.002)], [to, middle]], { width: 0.01, colour: IRON })
  if (window) for (const x of [-reach, reach]) pen.line([[x, sill], [x + pen.chance(-0.002, 0.002), middle], [x, band]], { width: 0.022, colour: IRON })
  for (let i = 1; i < 4; i++) pen.line([[left, foot + (height * PARAPET * i) / 4], [right, foot + (height * PARAPET * i) / 4 + pen.chance(-0.002, 0.002)]], { width: 0.003, colour: '#857f70' })
}

/** Its floor: boards along it, and the hatch of the stair. */
export function drawLampRoomFloor(pen: Pen, width: number, length: number): void {
  const [left, right, near, far] = [-width / 2, width / 2, -length / 2, length / 2]
  pen.wash([[left, near], [right, near], [right, far], [left, far]], '#b0a998')
  const boards = 14
  for (let i = 1; i < boards; i++) {
    const x = left + (width * i) / boards
    pen.line([[x, near], [x + pen.chance(-0.004, 0.004), 0], [x, far]], { width: 0.004, colour: '#857f70' })
    const y = pen.chance(near * 0.9, far * 0.9)
    pen.line([[x - width / boards, y], [x, y]], { width: 0.004, colour: '#857f70' })
  }
  pen.shape([[0.42, 0.1], [0.76, 0.1], [0.76, 0.42], [0.42, 0.42]], { width: 0.008, wobble: 0.001, fill: '#5f594c' })
}

/** Its roof from below: beams that meet over the lamp. */
export function drawLampRoomRoof(pen: Pen, width: number, length: number): void {
  const [x, y] = [width / 2, length / 2]
  pen.wash([[-x, -y], [x, -y], [x, y], [-x, y]], '#6f6a5d')
  for (const [ex, ey] of [[-x, -y], [0, -y], [x, -y], [x, 0], [x, y], [0, y], [-x, y], [-x, 0]] as const) pen.line([[0, 0], [ex / 2, ey / 2 + pen.chance(-0.003, 0.003)], [ex, ey]], { width: 0.014, colour: '#3f3b33' })
}
