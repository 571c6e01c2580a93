// Package ports finds ports on loopback for servers that tests start, stop and
// start again.
package ports

import (
	"errors"
	"fmt"
	"math/rand/v2"
	"net"
)

// Below where Linux takes the ports of outgoing connections from (32768): while a
// server is away, somebody who tries to reach it could be given its very port, be
// connected to themselves, and keep it from coming back.
const lowest, highest = 20000, 32000

// Free returns a port of 127.0.0.1 on which nobody listens.
func Free() (int, error) {
	for range 100 {
		port := lowest + rand.IntN(highest-lowest)
		l, err := net.Listen("tcp", fmt.Sprintf("127.0.0.1:%d", port))
		if err != nil {
			continue // somebody listens on it
		}
		return port, l.Close()
	}
	return 0, errors.New("found no port that is free: end what listens on the ports from 20000 to 32000")
}
