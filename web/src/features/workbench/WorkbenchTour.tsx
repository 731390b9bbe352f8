import { Tour } from 'antd'

import { Themed } from '../../shared/Themed'

const at = (selector: string) => () => document.querySelector<HTMLElement>(selector) ?? document.body

const STEPS = [
  { title: 'What it thinks', description: 'The likeliest fault in plain words, and how sure it is. It says so when it does not know.', target: at('.verdict') },
  {
    title: 'What to do next',
    description: 'One test: where the probes go, which switches, what each suspect would show. A look is answered right here.',
    target: at('.next-test'),
  },
  {
    title: 'The circuit',
    description: 'Source on top, load at the bottom. Touch two dots to place the probes, flip a switch to say how it stands.',
    target: at('.strip'),
  },
  { title: 'The number', description: 'Type what the meter shows and record. A card of several readings has a field for each.', target: at('.entry') },
  { title: 'Or say it', description: '“L1 to ground at the disconnect 120”: one line does it too. Press / to get here.', target: at('.quick-line') },
  {
    title: 'Everything you did',
    description: 'Each reading with its state. Touch one to correct or withdraw it; Undo takes back the last.',
    target: at('.readings'),
  },
  { title: 'Stages of the call', description: 'What was told, finding the fault, and what code and nameplate ask.', target: at('.stages') },
]

/** Two minutes around a call of the demo. */
export default function WorkbenchTour({ close }: { close: () => void }) {
  return (
    <Themed>
      <Tour open onClose={close} steps={STEPS} />
    </Themed>
  )
}
