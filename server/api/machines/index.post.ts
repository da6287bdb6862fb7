/** A machine asks to take part in the work. */
export default route('POST machines', (session, { body }) => session.machines.join(body))
