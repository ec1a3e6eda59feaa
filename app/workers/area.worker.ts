import { answerJobs } from './answerJobs'
import { findArea } from './areaOutlines'
import type { AreaAsk, AreaFound } from './messages'

answerJobs<AreaAsk, AreaFound>(findArea)
