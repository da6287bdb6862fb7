/** Every route of the server below `/api/`, and the methods it takes. What is not here is answered 404, else 405. */
export const routes: Readonly<Record<string, readonly string[]>> = {
  deliverables: ['GET', 'POST'],
  'deliverables/:timeline/:region/:outlet': ['GET'],
  files: ['GET'],
  handover: ['GET'],
  'handover/:id': ['GET'],
  'handover/files/:id': ['GET'],
  'handover/outlets/:id': ['GET'],
  'handover/stills/:name': ['GET'],
  live: ['GET'],
  outlets: ['GET', 'PUT'],
  'outlets/:id': ['DELETE'],
  runs: ['GET', 'POST'],
  'runs/:id': ['GET', 'POST'],
  'runs/:id/sheet': ['GET'],
  'runs/deliverables/:id': ['POST'],
  specs: ['POST'],
  'specs/:id': ['DELETE'],
  timelines: ['GET', 'POST'],
  'timelines/:id': ['DELETE', 'GET', 'PATCH'],
  'timelines/:id/changes': ['GET'],
  'timelines/:id/frames/:frame': ['GET'],
  'timelines/:id/link': ['POST'],
  'timelines/:id/sound': ['GET'],
  'timelines/:id/split': ['PATCH', 'PUT'],
  upload: ['PUT'],
  watch: ['GET', 'PUT'],
}

/** The methods that a path takes; null when there is no such route. A route without parameters goes first. */
export function methodsOf(path: string): readonly string[] | null {
  const parts = path.split('/')
  const fits = (pattern: string) => {
    const wanted = pattern.split('/')
    return wanted.length === parts.length && wanted.every((w, i) => w.startsWith(':') || w === parts[i])
  }
  const found = Object.keys(routes)
    .filter(fits)
    .sort((a, b) => a.split(':').length - b.split(':').length)[0]
  return found === undefined ? null : routes[found]!
}
