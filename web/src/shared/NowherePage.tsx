import { Link } from 'react-router'

export default function NowherePage() {
  return (
    <div className="page-state">
      <p>There is nothing at this address.</p>
      <Link to="/" className="plain-button">
        To the calls
      </Link>
    </div>
  )
}
