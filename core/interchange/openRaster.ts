import { shorten, xmlText } from '../document/text'
import { SaxesParser } from 'saxes'
import { readRole, type LayerRole } from './wayBack'

/** A layer of an OpenRaster file, px from the canvas's top left corner. */
export interface RasterLayer {
  readonly name: string
  /** Path inside the file. */
  readonly src: string
  readonly x: number
  readonly y: number
  /** Of the layer and of the groups it lies in, multiplied. */
  readonly opacity: number
  readonly visible: boolean
  /** A way of mixing that levels don't have; null for plain. */
  readonly mixing: string | null
  /** What its name says of the level that it was laid out for; null where it says nothing. */
  readonly role: LayerRole | null
  /** It was put in where it was painted, and goes with the layer that `role` is of. */
  readonly added: boolean
}

export interface RasterStack {
  readonly widthPx: number
  readonly heightPx: number
  /** Nearest first, as in the file. */
  readonly layers: readonly RasterLayer[]
}

export type StackRefusal = { readonly code: 'not-a-stack' | 'too-many-layers'; readonly what: string }

const MOST_LAYERS = 500
const MOST_PX = 65_535

/**
 * Reads `stack.xml` (OpenRaster baseline 0.0.6). Groups are opened up: their offsets add, their opacities multiply, and
 * what lies in a hidden one is hidden; several layers of one name get numbers.
 */
export function readStack(xml: string): { readonly ok: true; readonly stack: RasterStack } | { readonly ok: false; readonly refusal: StackRefusal } {
  let size: { widthPx: number; heightPx: number } | null = null
  const layers: RasterLayer[] = []
  const groups: { x: number; y: number; opacity: number; visible: boolean; role: LayerRole | null }[] = []
  const refuse = (what: string, code: StackRefusal['code'] = 'not-a-stack') => ({ ok: false, refusal: { code, what } }) as const
  const parser = new SaxesParser()
  let trouble: string | null = null
  parser.on('error', (error) => (trouble ??= error.message))
  parser.on('doctype', () => (trouble ??= 'it has definitions of its own'))
  parser.on('opentag', ({ name, attributes }) => {
    const number = (key: string, otherwise: number) => {
      const value = Number(attributes[key] ?? otherwise)
      return Number.isFinite(value) ? value : otherwise
    }
    if (name === 'image') size = { widthPx: Math.round(number('w', 0)), heightPx: Math.round(number('h', 0)) }
    if (name !== 'stack' && name !== 'layer') return
    const outer = groups.at(-1) ?? { x: 0, y: 0, opacity: 1, visible: true, role: null }
    const { name: said, role } = readRole(attributes.name ?? '')
    const here = {
      x: outer.x + number('x', 0),
      y: outer.y + number('y', 0),
      opacity: outer.opacity * Math.min(1, Math.max(0, number('opacity', 1))),
      visible: outer.visible && attributes.visibility !== 'hidden',
      role: role ?? outer.role,
    }
    if (name === 'stack') groups.push(here)
    else {
      const mixing = attributes['composite-op'] ?? 'svg:src-over'
      layers.push({ name: shorten(said.trim(), 120), src: attributes.src ?? '', ...here, mixing: mixing === 'svg:src-over' ? null : mixing, added: role === null && here.role !== null })
    }
  })
  parser.on('closetag', ({ name }) => {
    if (name === 'stack') groups.pop()
  })
  try {
    parser.write(xml).close()
  } catch (error) {
    trouble ??= (error as Error).message
  }
  if (trouble !== null) return refuse(`its list of layers is damaged (${String(trouble).slice(0, 120)})`)
  const found = size as { widthPx: number; heightPx: number } | null
  if (found === null || !(found.widthPx >= 1 && found.widthPx <= MOST_PX && found.heightPx >= 1 && found.heightPx <= MOST_PX)) return refuse('it does not say how large it is')
  if (layers.length > MOST_LAYERS) return refuse(`it has ${layers.length} layers; at most ${MOST_LAYERS} are taken`, 'too-many-layers')
  return { ok: true, stack: { ...found, layers: named(settled(layers)) } }
}

/** Layers that say nothing themselves, among some that do: each goes with the art under it, or the next over it. */
function settled(layers: readonly RasterLayer[]): RasterLayer[] {
  const isArt = ({ role }: RasterLayer) => role?.kind === 'art'
  return layers.map((layer, i) => {
    const with_ = layer.role !== null ? undefined : (layers.slice(i + 1).find(isArt) ?? layers.slice(0, i).findLast(isArt))
    return with_ === undefined ? layer : { ...layer, role: with_.role, added: true }
  })
}

function named(layers: readonly RasterLayer[]): RasterLayer[] {
  const seen = new Map<string, number>()
  return layers.map((layer, index) => {
    // What finds its way back has the name that it was given.
    if (layer.role !== null) return layer
    const name = layer.name === '' ? `Layer ${layers.length - index}` : layer.name
    const times = (seen.get(name) ?? 0) + 1
    seen.set(name, times)
    return { ...layer, name: times === 1 ? name : `${name} ${times}` }
  })
}

/** What an OpenRaster file that is made here has: layers, or groups of them, nearest first; a layer lies in the canvas’s corner where nothing else is said. */
export type StackPart = { readonly kind: 'layer'; readonly name: string; readonly src: string; readonly x?: number; readonly y?: number; readonly opacity: number; readonly visible: boolean } | { readonly kind: 'group'; readonly name: string; readonly parts: readonly StackPart[] }

/** The type of the file, to be its first entry, not compressed (OpenRaster baseline 0.0.6). */
export const STACK_MIMETYPE = 'image/openraster'

/** Writes `stack.xml`. */
export function writeStack(widthPx: number, heightPx: number, parts: readonly StackPart[]): string {
  const lines = (within: readonly StackPart[], indent: string): string[] =>
    within.flatMap((part) =>
      part.kind === 'group'
        ? [`${indent}<stack name="${xmlText(part.name)}">`, ...lines(part.parts, `${indent}  `), `${indent}</stack>`]
        : [`${indent}<layer name="${xmlText(part.name)}" src="${xmlText(part.src)}" x="${part.x ?? 0}" y="${part.y ?? 0}" opacity="${part.opacity}" visibility="${part.visible ? 'visible' : 'hidden'}" composite-op="svg:src-over"/>`],
    )
  return [`<?xml version="1.0" encoding="UTF-8"?>`, `<image version="0.0.6" w="${widthPx}" h="${heightPx}">`, '  <stack>', ...lines(parts, '    '), '  </stack>', '</image>', ''].join('\n')
}
