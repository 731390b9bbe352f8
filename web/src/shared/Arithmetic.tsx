import type { Finding } from '../api/schema.gen'
import { shown } from './units'

type Worked = NonNullable<Finding['found']>

/** A value's arithmetic, line by line, as it would stand on paper. */
export function Arithmetic({ worked, title }: { worked: Worked; title?: string }) {
  return (
    <table className={`arithmetic ${worked.steps.length > 1 ? 'summed' : ''}`}>
      {title ? <caption>{title}</caption> : null}
      <tbody>
        {worked.steps.map((step, i) => (
          <tr key={i}>
            <th scope="row">{step.words}</th>
            <td className="num">{step.sum ? `${step.sum} =` : ''}</td>
            <td className="num">
              {shown(step.value)} {step.unit}
            </td>
          </tr>
        ))}
      </tbody>
    </table>
  )
}
