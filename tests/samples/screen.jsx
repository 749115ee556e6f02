//! npm/react@16->npm/react@19
import React, { Component } from "react";

//: removed react.createFactory
const make = React.createFactory("b");

export class Gate extends Component {
  render() {
    return <React.Fragment>{this.props.code}</React.Fragment>;
  }
}
//: removed react.PropTypes
export const shape = React.PropTypes;
