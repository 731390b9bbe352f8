import { Link } from 'react-router'

import { FrameTitle } from './FrameTitle'

export default function NowherePage() {
  return (
    <div className="page-state">
      <FrameTitle title="Nothing here" />
      <p>There is nothing at this address.</p>
      <Link to="/" className="plain-button">
        To the calls
      </Link>
    </div>
  )
}
