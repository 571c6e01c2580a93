// Package signing proves that Stoop made something: an address of a file, a link
// in a mail, the address that a mail's answer goes to.
package signing

import (
	"crypto/hmac"
	"crypto/sha256"
	"encoding/hex"
)

// Key signs. It is the same on all servers of one database.
type Key []byte

// proofLength is how many hex digits of a proof stand in an address: 20 digits
// are 80 bits, which nobody guesses over a mail server.
const proofLength = 20

// Proof shows that Stoop made something for a purpose.
func (k Key) Proof(purpose, id string) string {
	mac := hmac.New(sha256.New, k)
	mac.Write([]byte(purpose + ":" + id))
	return hex.EncodeToString(mac.Sum(nil))[:proofLength]
}

// Proves reports whether a proof is the one for a purpose.
func (k Key) Proves(proof, purpose, id string) bool {
	return hmac.Equal([]byte(proof), []byte(k.Proof(purpose, id)))
}
