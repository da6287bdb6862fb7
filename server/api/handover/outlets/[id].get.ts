/** Everything finished for an outlet with its proofs, for the report that prints. */
export default route(async (session, event) => {
  const id = param(event, 'id')
  return (await session.runs.handover()).filter((f) => f.item.outlet.id === id)
})
