import { readLines, type LineOptions } from '../lines'
import { withSettings, type SplitMaker } from './maker'
import { choice } from '../settings'

/** Each line that was typed or pasted. */
export const lines: SplitMaker = withSettings({
  name: 'lines',
  label: 'typed or pasted lines',
  hint: 'A region a line: times in any usual spelling and a name; rows of a spreadsheet as they are.',
  settings: {
    text: {
      kind: 'lines',
      label: 'Lines',
      initial: '',
      hint: '10:00:00:00 10:12:30:00 Morning Chain\n10:13:00 +12min Fog Bell\n10:25:30 Low Water',
    },
    from: choice<LineOptions['from']>('Times count from', [
      ['fitting', 'whatever fits'],
      ['labels', 'the timeline’s timecode'],
      ['first', 'its first frame'],
    ]),
    end: choice<LineOptions['end']>('The end that is given is', [
      ['after', 'the first frame after'],
      ['last', 'the last frame'],
    ]),
  },
  make: ({ timeline }, { text, ...options }) =>
    readLines(text, timeline, options).flatMap((l) => (l.range ? [l.range] : [])),
})
