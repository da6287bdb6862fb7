export default route('GET runs/:id', (session, { params }) => session.progress.view(params.id))
