export default route((engine, event) => engine.runs.view(param(event, 'id')))
