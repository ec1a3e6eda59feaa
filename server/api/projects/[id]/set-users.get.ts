import { defineEventHandler } from 'h3'
import { idParam } from '../../../services/params'
import { setUsers } from '../../../services/projects'

export default defineEventHandler(async (event) => setUsers(idParam(event)))
