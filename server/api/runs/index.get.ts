export default route('GET runs', (session) => session.runs.list())
