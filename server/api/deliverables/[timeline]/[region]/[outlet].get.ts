/** One deliverable with all that its rules say of it. */
export default route('GET deliverables/:timeline/:region/:outlet', (session, { params }) =>
  session.live.detail({ timelineId: params.timeline, regionId: params.region, outletId: params.outlet }),
)
