export default route('GET runs', (session) => session.progress.list())
