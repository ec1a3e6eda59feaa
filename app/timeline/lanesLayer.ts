import { createKeptLayer } from '../canvas/keptLayer'
import { drawLanes } from './drawLanes'
import type { StripInk } from './stripInk'
import { rowsEnd } from './stripRows'
import type { StripScale } from './stripScale'
import type { StripScene } from './stripScene'

/** The lanes, kept while nothing in them changes: hundreds of waves are not drawn again because the playhead has come to another panel. */
export function createLanesLayer() {
  const layer = createKeptLayer()
  return (context: CanvasRenderingContext2D, scale: StripScale, scene: StripScene, ink: StripInk, ratio: number) => {
    const height = scene.lanes.reduce((sum, lane) => sum + lane.height, 0)
    layer(context, { width: scale.widthPx, height, ratio, top: rowsEnd(scene.rows) }, [scene.lanes, scene.proposals, scale.pxPerFrame, scale.firstFrame, ink], (aside) => drawLanes(aside, scale, scene, ink))
  }
}
