/** What each rule of the specification `?spec=` says of a file that was measured. */
export default route('GET received/file', ({ received }, { event }) => {
  const { root = '', path = '', spec = '' } = getQuery(event) as { root?: string; path?: string; spec?: string }
  return received.results({ root, path }, spec)
})
