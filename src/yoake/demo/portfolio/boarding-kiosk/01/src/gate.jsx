import React from "react";

export class Gate extends React.Component {
  UNSAFE_componentWillMount() { this.setState({ open: false }); }
  render() { return <button disabled={!this.state.open}>{this.props.label}</button>; }
}
