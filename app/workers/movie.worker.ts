import { answerJobs } from './answerJobs'
import { makeFile } from './makeFile'
import type { MadeMovie, MovieProgress, MovieRequest } from './messages'
import { createPaintCrew, paintersFor } from './paintCrew'

answerJobs<MovieRequest, MadeMovie, MovieProgress>((request, job) => makeFile(request, job, (asked, total) => createPaintCrew(asked, total, paintersFor(total, navigator.hardwareConcurrency))))
