import { Component, type ReactNode } from 'react'

type Props = { children: ReactNode; what: string }

/** A part of a page that may fail alone: all else goes on, and what is typed beside it stays. */
export class Panel extends Component<Props, { isBroken: boolean }> {
  override state = { isBroken: false }

  static getDerivedStateFromError() {
    return { isBroken: true }
  }

  override render() {
    if (!this.state.isBroken) return this.props.children
    return (
      <div className="panel-broken" role="status">
        <p>The {this.props.what} could not be drawn. The rest of this page works, and nothing you typed is lost.</p>
        <button type="button" className="plain-button" onClick={() => this.setState({ isBroken: false })}>
          Draw it again
        </button>
      </div>
    )
  }
}
