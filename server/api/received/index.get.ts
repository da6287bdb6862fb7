/** Media files at or below a place, held against the specification `?spec=` as far as they were measured. */
export default route('GET received', ({ received }, { event }) => {
  const { root = '', path = '', spec = '' } = getQuery(event) as { root?: string; path?: string; spec?: string }
  return received.list({ root, path }, spec)
})
