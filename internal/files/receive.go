package files

import (
	"bufio"
	"bytes"
	"context"
	"errors"
	"fmt"
	"image"
	"image/jpeg"
	"io"
	"path"
	"slices"
	"strings"

	"github.com/disintegration/imaging"
	"github.com/gabriel-vasile/mimetype"
	_ "golang.org/x/image/webp" // a picture format that browsers make

	"stoop/core/chat"
)

// Kind groups file types for the settings.
type Kind string

// The kinds of files.
const (
	Picture  Kind = "picture"
	PDF      Kind = "pdf"
	Video    Kind = "video"
	Sound    Kind = "sound"
	Text     Kind = "text"
	Document Kind = "document"
	Archive  Kind = "archive"
)

// Kinds are all kinds, in the order of the settings.
var Kinds = []Kind{Picture, PDF, Video, Sound, Text, Document, Archive}

// types are the media types that are let in, by what the content is.
var types = map[string]Kind{
	"image/jpeg": Picture, "image/png": Picture, "image/gif": Picture, "image/webp": Picture,
	"application/pdf": PDF,
	"video/mp4":       Video, "video/webm": Video, "video/quicktime": Video, "video/ogg": Video,
	"audio/mpeg": Sound, "audio/ogg": Sound, "audio/wav": Sound, "audio/mp4": Sound, "audio/x-m4a": Sound, "audio/webm": Sound, "audio/flac": Sound, "audio/aac": Sound,
	"text/plain": Text, "text/csv": Text,
	"application/vnd.openxmlformats-officedocument.wordprocessingml.document":   Document,
	"application/vnd.openxmlformats-officedocument.spreadsheetml.sheet":         Document,
	"application/vnd.openxmlformats-officedocument.presentationml.presentation": Document,
	"application/vnd.oasis.opendocument.text":                                   Document,
	"application/vnd.oasis.opendocument.spreadsheet":                            Document,
	"application/vnd.oasis.opendocument.presentation":                           Document,
	"text/rtf": Document, "image/heic": Document, "image/heif": Document,
	"application/zip": Archive, "application/gzip": Archive, "application/x-7z-compressed": Archive,
}

// claims are the endings of pictures: what has one of them must be one.
var claims = []string{".jpg", ".jpeg", ".png", ".gif", ".webp"}

// Rules say what is let in.
type Rules struct {
	MaxBytes int64
	Kinds    []Kind
}

// Claim is what the sender says of a file.
type Claim struct {
	Name  string
	Size  int64 // in bytes; 0 or less when not told
	Voice bool
}

// Received is a file that was let in and is kept.
type Received struct {
	Hash, ThumbHash string
	Name, Type      string
	Size            int64
	Width, Height   int
	Voice           bool
}

// TooBigError: the file is larger than the rules allow.
type TooBigError struct{ Limit int64 }

func (e *TooBigError) Error() string { return fmt.Sprintf("the file has more than %d bytes", e.Limit) }

// WrongTypeError: the rules do not let this type in.
type WrongTypeError struct{ Type string }

func (e *WrongTypeError) Error() string { return "files of the type " + e.Type + " are not let in" }

// ErrNotAPicture: the file claims to be a picture, but cannot be read as one.
var ErrNotAPicture = errors.New("the file is not the picture that it claims to be")

// ErrHugePicture: reading the picture would need more memory than any screen
// has use for.
var ErrHugePicture = errors.New("the picture has too many pixels")

// ErrNoContent: the file is empty.
var ErrNoContent = errors.New("the file is empty")

// ErrBrokenOff: the content ended before its end, as when a connection breaks.
// It is not io.ErrUnexpectedEOF, which a lost database says as well.
var ErrBrokenOff = errors.New("the file did not arrive whole")

const (
	nameLimit  = 120        // code points of a file's name
	pixelLimit = 50_000_000 // a photo of today's phones has up to 50 million
	headLength = 16 << 10   // what the type is found by
)

// Receive looks into a content, keeps it, and returns what it is. On an error
// nothing is kept.
func Receive(ctx context.Context, store Store, content io.Reader, claim Claim, rules Rules) (Received, error) {
	out := Received{Name: CleanName(claim.Name), Voice: claim.Voice}
	if claim.Size > rules.MaxBytes {
		return out, &TooBigError{Limit: rules.MaxBytes}
	}
	limited := &limitedReader{from: content, left: rules.MaxBytes, limit: rules.MaxBytes, told: claim.Size}
	buffered := bufio.NewReaderSize(limited, headLength)
	head, err := buffered.Peek(headLength)
	if err != nil && !errors.Is(err, io.EOF) {
		return out, err
	}
	if len(head) == 0 {
		return out, ErrNoContent
	}
	kind := out.find(head)
	if slices.Contains(claims, strings.ToLower(path.Ext(out.Name))) && kind != Picture {
		return out, ErrNotAPicture
	}
	if kind == "" || !slices.Contains(rules.Kinds, kind) {
		return out, &WrongTypeError{Type: out.Type}
	}
	if out.Hash, out.Size, err = store.Put(ctx, buffered); err != nil {
		return out, err
	}
	if kind == Picture {
		if err := out.look(ctx, store); err != nil {
			return out, errors.Join(err, store.Remove(ctx, out.Hash))
		}
	}
	return out, nil
}

// find notes the type of a content and returns its kind.
func (r *Received) find(head []byte) Kind {
	found := mimetype.Detect(head)
	r.Type, _, _ = strings.Cut(found.String(), ";")
	if r.Voice && r.Type == "video/webm" {
		r.Type = "audio/webm" // browsers record sound in a container for both
	}
	if r.Voice && r.Type == "video/mp4" {
		r.Type = "audio/mp4"
	}
	return types[r.Type]
}

const thumbSide = 480 // pixels: twice of what is shown, for fine screens

// look reads a picture's size and makes a small one of it.
func (r *Received) look(ctx context.Context, store Store) error {
	f, err := store.Open(ctx, r.Hash)
	if err != nil {
		return err
	}
	defer f.Close()
	size, _, err := image.DecodeConfig(f)
	if err != nil {
		return fmt.Errorf("%w: %w", ErrNotAPicture, err)
	}
	if size.Width*size.Height > pixelLimit || size.Width <= 0 || size.Height <= 0 {
		return ErrHugePicture
	}
	if _, err := f.Seek(0, io.SeekStart); err != nil {
		return err
	}
	picture, err := imaging.Decode(f, imaging.AutoOrientation(true))
	if err != nil {
		return fmt.Errorf("%w: %w", ErrNotAPicture, err)
	}
	r.Width, r.Height = picture.Bounds().Dx(), picture.Bounds().Dy()
	if r.Width <= thumbSide && r.Height <= thumbSide {
		return nil // it is small itself
	}
	var small bytes.Buffer
	thumb := imaging.Fit(picture, thumbSide, thumbSide, imaging.Lanczos)
	onPaper := imaging.New(thumb.Bounds().Dx(), thumb.Bounds().Dy(), image.White.C)
	if err := jpeg.Encode(&small, imaging.Overlay(onPaper, thumb, image.Point{}, 1), &jpeg.Options{Quality: 80}); err != nil {
		return err
	}
	r.ThumbHash, _, err = store.Put(ctx, &small)
	return err
}

// Shown returns whether browsers may show a type in the page; all others are
// offered as downloads.
func Shown(mediaType string) bool { return types[mediaType] == Picture }

// KindOf returns the kind of a media type; empty for types that are not let in.
func KindOf(mediaType string) Kind { return types[mediaType] }

// CleanName returns a file's name on one line, without folders and marks that
// change the direction of text, not too long, with its ending.
func CleanName(name string) string {
	name = chat.CleanLine(path.Base(strings.ReplaceAll(name, `\`, "/")), 10_000)
	ending := path.Ext(name)
	if len([]rune(ending)) > 12 || ending == "." {
		ending = ""
	}
	stem := chat.CleanLine(strings.TrimRight(strings.TrimSuffix(name, ending), "."), nameLimit-len([]rune(ending)))
	if stem == "" || stem == "." || stem == "/" {
		stem = "file"
	}
	return stem + ending
}

// limitedReader fails when there is more than a limit, rather than cut it off,
// and when there is not what was told.
type limitedReader struct {
	from        io.Reader
	left, limit int64
	told        int64 // 0 or less: nothing
}

func (l *limitedReader) Read(p []byte) (int, error) {
	if int64(len(p)) > l.left+1 {
		p = p[:l.left+1]
	}
	n, err := l.from.Read(p)
	if l.left -= int64(n); l.left < 0 {
		return 0, &TooBigError{Limit: l.limit}
	}
	if errors.Is(err, io.ErrUnexpectedEOF) || errors.Is(err, io.EOF) && l.told > 0 && l.limit-l.left != l.told {
		return 0, ErrBrokenOff
	}
	return n, err
}
