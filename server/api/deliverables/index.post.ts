/** Changes what is decided of deliverables: chosen or not, overridden values, waivers. */
export default route('POST deliverables', async (session, { body: c }) => {
  if (c.action === 'choose') await session.outlets.choose(c.keys, c.chosen)
  else if (c.action === 'override') await session.outlets.override(c.keys, c.values, c.reset)
  else if (c.action === 'unwaive') await session.outlets.unwaive(c.keys, c.rule)
  else if (c.action === 'fix') await session.nights.fix(c.keys, c.rule)
  else {
    const { rule, reason, initials } = c
    await session.nights.waive(c.keys, { rule, reason, initials, at: new Date().toISOString() })
  }
  return session.live.refresh()
})
