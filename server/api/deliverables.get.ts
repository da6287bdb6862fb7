export default route((engine) => engine.deliverables())
