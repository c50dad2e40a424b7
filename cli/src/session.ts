import { mikkTangents } from '@chiraxis/loaders'
import { basename } from 'node:path'
import { openFigure, type OpenedFigure } from '@chiraxis/core/steps'
import { besideOf, readBody } from './files'
import { readApart } from './read-apart'

/** A body or a saved project on the command line: the same recipe and the same steps as in the window. */
export const openPath = (path: string): Promise<OpenedFigure> =>
  openFigure({ name: basename(path), bytes: readBody(path), beside: besideOf(path) }, readApart, mikkTangents)
