import DOMPurify from 'dompurify'

/** SVG tells capitals from small letters, and what is cleaned here as XML is known to the library in small letters only. */
const TAGS = ['linearGradient', 'radialGradient', 'clipPath', 'textPath', ...['Blend', 'ColorMatrix', 'ComponentTransfer', 'Composite', 'ConvolveMatrix', 'DiffuseLighting', 'DisplacementMap', 'DistantLight', 'DropShadow', 'Flood', 'FuncA', 'FuncB', 'FuncG', 'FuncR', 'GaussianBlur', 'Merge', 'MergeNode', 'Morphology', 'Offset', 'PointLight', 'SpecularLighting', 'SpotLight', 'Tile', 'Turbulence'].map((name) => `fe${name}`)]
const ATTRIBUTES = [
  'viewBox', 'preserveAspectRatio', 'pathLength', 'textLength', 'lengthAdjust', 'startOffset',
  'gradientUnits', 'gradientTransform', 'spreadMethod', 'patternUnits', 'patternContentUnits', 'patternTransform',
  'clipPathUnits', 'maskUnits', 'maskContentUnits', 'markerUnits', 'markerWidth', 'markerHeight', 'refX', 'refY',
  'filterUnits', 'primitiveUnits', 'stdDeviation', 'baseFrequency', 'numOctaves', 'stitchTiles', 'edgeMode', 'kernelMatrix', 'kernelUnitLength', 'preserveAlpha', 'targetX', 'targetY',
  'surfaceScale', 'diffuseConstant', 'specularConstant', 'specularExponent', 'limitingConeAngle', 'pointsAtX', 'pointsAtY', 'pointsAtZ', 'tableValues', 'xChannelSelector', 'yChannelSelector',
]

/** An SVG with everything taken out that could run, load or lead elsewhere. Throws where nothing is left to draw. */
export async function safeSvg(file: File): Promise<File> {
  const text = new TextDecoder().decode(await file.arrayBuffer())
  // The browser reports event attributes even in a document that never runs, so they go before it sees them.
  const quiet = text.replace(/\son[a-z]+\s*=\s*("[^"]*"|'[^']*')/gi, '')
  // What stands before the picture itself, its declaration as well, is not of the document that it is cleaned in.
  const clean = DOMPurify.sanitize(quiet.replace(/<!DOCTYPE[^[>]*(\[[^\]]*\])?[^>]*>/i, '').replace(/<\?[^>]*\?>/g, ''), {
    USE_PROFILES: { svg: true, svgFilters: true },
    NAMESPACE: 'http://www.w3.org/2000/svg',
    PARSER_MEDIA_TYPE: 'application/xhtml+xml',
    ADD_TAGS: TAGS,
    ADD_ATTR: ATTRIBUTES,
    FORBID_TAGS: ['a', 'animate', 'animateMotion', 'animateTransform', 'set', 'foreignObject', 'script', 'use'],
    RETURN_DOM: false,
  }) as string
  const parsed = new DOMParser().parseFromString(clean, 'image/svg+xml')
  const root = parsed.documentElement
  if (root.localName !== 'svg' || parsed.querySelector('parsererror') !== null || root.children.length === 0) throw new Error('It is not an SVG picture, or nothing in it can be drawn.')
  for (const element of [root, ...root.querySelectorAll('*')]) {
    for (const attribute of [...element.attributes]) {
      const links = [...attribute.value.matchAll(/url\(\s*['"]?([^'")]*)/gi)].map((found) => found[1]!)
      const own = (link: string) => link.startsWith('#') || /^data:image\/(png|jpeg|webp);base64,/i.test(link)
      const leadsOut = links.some((link) => !own(link)) || (/(^|:)(href|src)$/.test(attribute.name) && !own(attribute.value.trim()))
      if (leadsOut) element.removeAttribute(attribute.name)
    }
  }
  for (const style of root.querySelectorAll('style')) if (/@import|url\(/i.test(style.textContent ?? '')) style.remove()
  return new File([new XMLSerializer().serializeToString(root)], file.name, { type: 'image/svg+xml' })
}
