import { readFountain, type ReadScript } from '@rubato/core/script'
import { answerJobs } from './answerJobs'

answerJobs<string, ReadScript>(readFountain)
