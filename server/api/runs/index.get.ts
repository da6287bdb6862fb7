export default route((engine) => engine.runs.list())
