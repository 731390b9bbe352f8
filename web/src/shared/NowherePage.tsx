import { Result } from 'antd'
import { Link } from 'react-router'

import { FrameTitle } from './FrameTitle'

export default function NowherePage() {
  return (
    <>
      <FrameTitle title="Nothing here" />
      <Result
        status="warning"
        title="There is nothing at this address."
        extra={
          <Link to="/" className="accent-button">
            To the calls
          </Link>
        }
      />
    </>
  )
}
