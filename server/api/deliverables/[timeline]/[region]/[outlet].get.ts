/** One deliverable with all that its rules say of it. */
export default route((session, event) =>
  session.live.detail({
    timelineId: param(event, 'timeline'),
    regionId: param(event, 'region'),
    outletId: param(event, 'outlet'),
  }),
)
