/** A picture of the line-up that a deliverable will begin with: that of frame `?n=` of its file. */
export default route('GET deliverables/:timeline/:region/:outlet/line-up', async (session, { params, event }) => {
  const key = { timelineId: params.timeline, regionId: params.region, outletId: params.outlet }
  const jpeg = await session.nights.lineUp(key, Number(getQuery(event).n ?? 0))
  setResponseHeaders(event, { 'content-type': 'image/jpeg', 'cache-control': 'no-store' })
  return jpeg
})
