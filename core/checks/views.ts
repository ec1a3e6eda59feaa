import { shownInTake } from '../stage/shownAt'
import { viewsOf } from '../stage/shown'
import type { StageFrame, TakeStage } from '../stage/takeStage'

/** Every view of a frame: of a dissolve between cameras, both. */
export const viewsAt = (stage: TakeStage, frame: number): readonly StageFrame[] => viewsOf(shownInTake('', frame, stage)).map((view) => stage.through(view.frame, view.cameraId))
