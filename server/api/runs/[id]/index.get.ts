export default route('GET runs/:id', (session, { params }) => session.runs.view(params.id))
