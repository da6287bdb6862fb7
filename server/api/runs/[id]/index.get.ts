export default route((session, event) => session.runs.view(param(event, 'id')))
