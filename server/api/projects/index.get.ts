import { defineEventHandler } from 'h3'
import { listProjects } from '../../services/projects'

export default defineEventHandler(() => listProjects())
