export default route((session) => session.runs.list())
