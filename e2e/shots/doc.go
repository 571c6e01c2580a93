// Package shots takes the pictures in docs/screenshots, from the demo's data
// in the real interface: make screenshots.
package shots
