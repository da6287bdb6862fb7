/** The deliverables of a run as they were frozen, and what has changed since. */
export default route('GET runs/:id/since', (session, { params: { id } }) => session.nights.since(id))
