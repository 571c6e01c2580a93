// Package opened reads push messages as a browser does, for tests.
package opened

import (
	"crypto/aes"
	"crypto/cipher"
	"crypto/ecdh"
	"crypto/hkdf"
	"crypto/sha256"
	"errors"
)

// Message decrypts the body of a push message with a browser's keys (RFC 8291, section 3;
// RFC 8188, section 2), told from the standard and not by the code that seals.
func Message(body []byte, key *ecdh.PrivateKey, auth []byte) ([]byte, error) {
	if len(body) < 86+17 || body[20] != 65 {
		return nil, errors.New("too short, or with a key of another kind")
	}
	salt, theirs := body[:16], body[21:86]
	sender, err := ecdh.P256().NewPublicKey(theirs)
	if err != nil {
		return nil, err
	}
	shared, err := key.ECDH(sender)
	if err != nil {
		return nil, err
	}
	pseudorandom, err := hkdf.Extract(sha256.New, shared, auth)
	if err != nil {
		return nil, err
	}
	info := append([]byte("WebPush: info\x00"), key.PublicKey().Bytes()...)
	material, err := hkdf.Expand(sha256.New, pseudorandom, string(append(info, theirs...)), 32)
	if err != nil {
		return nil, err
	}
	if pseudorandom, err = hkdf.Extract(sha256.New, material, salt); err != nil {
		return nil, err
	}
	part := func(info string, length int) []byte {
		out, expandErr := hkdf.Expand(sha256.New, pseudorandom, info, length)
		err = errors.Join(err, expandErr)
		return out
	}
	contentKey, nonce := part("Content-Encoding: aes128gcm\x00", 16), part("Content-Encoding: nonce\x00", 12)
	if err != nil {
		return nil, err
	}
	block, err := aes.NewCipher(contentKey)
	if err != nil {
		return nil, err
	}
	opens, err := cipher.NewGCM(block)
	if err != nil {
		return nil, err
	}
	padded, err := opens.Open(nil, nonce, body[86:], nil)
	if err != nil {
		return nil, err
	}
	for i := len(padded) - 1; i >= 0; i-- {
		switch padded[i] {
		case 0:
		case 2:
			return padded[:i], nil
		default:
			return nil, errors.New("the record does not end as the last one does")
		}
	}
	return nil, errors.New("nothing but padding")
}
