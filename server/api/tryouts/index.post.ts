/** Has a stretch of a region made with settings that are to be tried. */
export default route('POST tryouts', ({ tryouts }, { body }) => tryouts.start(body))
