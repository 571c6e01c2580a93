package files

import (
	"bufio"
	"bytes"
	"context"
	"encoding/binary"
	"errors"
	"fmt"
	"image"
	"image/color"
	_ "image/gif"
	"image/jpeg"
	_ "image/png"
	"io"
	"time"

	"github.com/disintegration/imaging"
	"golang.org/x/image/draw"
	_ "golang.org/x/image/webp" // a picture format that browsers make
	"golang.org/x/sync/semaphore"
)

// What reading pictures may cost at once, whoever sends them.
const (
	pixelLimit   = 50_000_000  // a photo of today's phones has up to 50 million
	scanLimit    = 100         // of a progressive JPEG; encoders make about ten
	workLimit    = 400_000_000 // pixels times scans
	decodeBudget = 320 << 20   // bytes of all pictures that are being read
	decodeWait   = 30 * time.Second
	thumbSide    = 480 // pixels: twice of what is shown, for fine screens
)

// Bytes that Go's decoders take for a pixel at the most: a progressive JPEG is
// kept as coefficients of 32 bits beside its picture, a PNG may have 16 bits in
// four channels.
const (
	plainPixel       = 4
	deepPixel        = 8
	progressivePixel = 16
)

var decoding = semaphore.NewWeighted(decodeBudget)

// ErrBusy: too many pictures are being read at once.
var ErrBusy = errors.New("too many pictures are being looked at right now")

// look reads a picture's size and makes a small one of it. A picture that would
// take more memory than there is for all of them is let in without a small one.
func (r *Received) look(ctx context.Context, store Store) error {
	f, err := store.Open(ctx, r.Hash)
	if err != nil {
		return err
	}
	defer f.Close()
	size, format, err := image.DecodeConfig(bufio.NewReader(f))
	if err != nil {
		return fmt.Errorf("%w: %w", ErrNotAPicture, err)
	}
	pixels := int64(size.Width) * int64(size.Height)
	if pixels > pixelLimit || size.Width <= 0 || size.Height <= 0 {
		return ErrHugePicture
	}
	weight, turned := pixels*deepPixel, 1
	if format == "jpeg" {
		if _, err := f.Seek(0, io.SeekStart); err != nil {
			return err
		}
		made := inspect(bufio.NewReader(f))
		turned = made.orientation
		if made.scans > scanLimit || int64(made.scans)*pixels > workLimit {
			return ErrHugePicture
		}
		if weight = pixels * plainPixel; made.progressive {
			weight = pixels * progressivePixel
		}
	}
	r.Width, r.Height = size.Width, size.Height
	if turned > 4 {
		r.Width, r.Height = size.Height, size.Width
	}
	if weight > decodeBudget {
		return nil
	}
	ctx, cancel := context.WithTimeout(ctx, decodeWait)
	defer cancel()
	if err := decoding.Acquire(ctx, weight); err != nil {
		return errors.Join(ErrBusy, err)
	}
	defer decoding.Release(weight)
	if _, err := f.Seek(0, io.SeekStart); err != nil {
		return err
	}
	picture, _, err := image.Decode(bufio.NewReader(f))
	if err != nil {
		return fmt.Errorf("%w: %w", ErrNotAPicture, err)
	}
	if r.Width <= thumbSide && r.Height <= thumbSide {
		return nil // it is small itself
	}
	var small bytes.Buffer
	if err := jpeg.Encode(&small, upright(thumbOf(picture), turned), &jpeg.Options{Quality: 80}); err != nil {
		return err
	}
	r.ThumbHash, _, err = store.Put(ctx, &small)
	return err
}

// thumbOf returns a small picture on white paper, without a copy of the large
// one.
func thumbOf(picture image.Image) image.Image {
	b := picture.Bounds()
	scale := min(1, float64(thumbSide)/float64(max(b.Dx(), b.Dy())))
	small := image.NewRGBA(image.Rect(0, 0, max(1, int(float64(b.Dx())*scale)), max(1, int(float64(b.Dy())*scale))))
	draw.Draw(small, small.Bounds(), image.NewUniform(color.White), image.Point{}, draw.Src)
	draw.BiLinear.Scale(small, small.Bounds(), picture, b, draw.Over, nil)
	return small
}

// upright turns a picture as its camera was held (Exif 2.3, tag 0x0112).
func upright(p image.Image, orientation int) image.Image {
	switch orientation {
	case 2:
		return imaging.FlipH(p)
	case 3:
		return imaging.Rotate180(p)
	case 4:
		return imaging.FlipV(p)
	case 5:
		return imaging.Transpose(p)
	case 6:
		return imaging.Rotate270(p)
	case 7:
		return imaging.Transverse(p)
	case 8:
		return imaging.Rotate90(p)
	}
	return p
}

// jpegMake is how a JPEG was made.
type jpegMake struct {
	scans       int
	progressive bool
	orientation int // as in Exif; 1 when not told
}

// inspect goes over the segments of a JPEG (ITU-T T.81, annex B) without
// reading the picture.
func inspect(r *bufio.Reader) jpegMake {
	made := jpegMake{orientation: 1}
	for {
		marker, err := nextMarker(r)
		if err != nil || marker == 0xD9 { // EOI
			return made
		}
		if marker == 0xD8 || marker == 0x01 || marker >= 0xD0 && marker <= 0xD7 {
			continue // without a length
		}
		var length uint16
		if err := binary.Read(r, binary.BigEndian, &length); err != nil || length < 2 {
			return made
		}
		switch marker {
		case 0xC2: // SOF2
			made.progressive = true
		case 0xDA: // SOS
			if made.scans++; made.scans > scanLimit {
				return made
			}
		case 0xE1: // APP1
			segment := make([]byte, length-2)
			if _, err := io.ReadFull(r, segment); err != nil {
				return made
			}
			if o := orientationIn(segment); o != 0 {
				made.orientation = o
			}
			continue
		}
		if _, err := r.Discard(int(length) - 2); err != nil {
			return made
		}
	}
}

// nextMarker goes to the next marker, over what a scan holds.
func nextMarker(r *bufio.Reader) (byte, error) {
	for {
		if _, err := r.ReadSlice(0xFF); err != nil && !errors.Is(err, bufio.ErrBufferFull) {
			return 0, err
		} else if err != nil {
			continue
		}
		for {
			b, err := r.ReadByte()
			if err != nil {
				return 0, err
			}
			if b == 0xFF {
				continue // fill bytes
			}
			if b != 0 { // 0xFF00 stands for a byte 0xFF within a scan
				return b, nil
			}
			break
		}
	}
}

// orientationIn returns the orientation that an Exif segment tells, or 0.
func orientationIn(segment []byte) int {
	tiff, found := bytes.CutPrefix(segment, []byte("Exif\x00\x00"))
	if !found || len(tiff) < 8 {
		return 0
	}
	var order binary.ByteOrder = binary.BigEndian
	if string(tiff[:2]) == "II" {
		order = binary.LittleEndian
	}
	at := int64(order.Uint32(tiff[4:]))
	if at+2 > int64(len(tiff)) {
		return 0
	}
	entries := int64(order.Uint16(tiff[at:]))
	for i := range entries {
		entry := at + 2 + i*12
		if entry+12 > int64(len(tiff)) {
			return 0
		}
		if order.Uint16(tiff[entry:]) == 0x0112 {
			if o := int(order.Uint16(tiff[entry+8:])); o >= 1 && o <= 8 {
				return o
			}
			return 0
		}
	}
	return 0
}
