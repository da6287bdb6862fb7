export default route('GET tryouts/:id', ({ tryouts }, { params }) => tryouts.state(params.id))
