package files

import (
	"bufio"
	"context"
	"errors"
	"fmt"
	"io"
	"path"
	"slices"
	"strings"

	"github.com/gabriel-vasile/mimetype"

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
	nameLimit  = 120      // code points of a file's name
	headLength = 16 << 10 // what the type is found by
)

// Receive looks into a content, keeps it, and returns what it is. What is kept
// and not let in after all is swept later.
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
		// What is not let in stays until contents are swept that no file needs: the
		// same content may be somebody else's file already.
		if err := out.look(ctx, store); err != nil {
			return out, err
		}
	}
	out.Name = named(out.Name, out.Type)
	return out, nil
}

// endings are what files of a type may be called; the first one is added to a
// name that has none of them. Whoever opens a downloaded file opens it by its
// ending: a text must not be a page or a script by that.
var endings = map[string][]string{
	"image/jpeg": {".jpg", ".jpeg"}, "image/png": {".png"}, "image/gif": {".gif"}, "image/webp": {".webp"},
	"image/heic": {".heic"}, "image/heif": {".heif"}, "application/pdf": {".pdf"},
	"video/mp4": {".mp4", ".m4v"}, "video/webm": {".webm"}, "video/quicktime": {".mov"}, "video/ogg": {".ogv", ".ogg"},
	"audio/mpeg": {".mp3"}, "audio/ogg": {".ogg", ".oga", ".opus"}, "audio/wav": {".wav"}, "audio/mp4": {".m4a", ".mp4"}, "audio/x-m4a": {".m4a"},
	"audio/webm": {".webm"}, "audio/flac": {".flac"}, "audio/aac": {".aac"},
	"text/plain": {".txt", ".text", ".log", ".md", ".csv", ".tsv", ".ics", ".vcf", ".json", ".yaml", ".yml", ".eml"}, "text/csv": {".csv", ".txt"},
	"application/vnd.openxmlformats-officedocument.wordprocessingml.document":   {".docx"},
	"application/vnd.openxmlformats-officedocument.spreadsheetml.sheet":         {".xlsx"},
	"application/vnd.openxmlformats-officedocument.presentationml.presentation": {".pptx"},
	"application/vnd.oasis.opendocument.text":                                   {".odt"},
	"application/vnd.oasis.opendocument.spreadsheet":                            {".ods"},
	"application/vnd.oasis.opendocument.presentation":                           {".odp"},
	"text/rtf": {".rtf"}, "application/zip": {".zip"}, "application/gzip": {".gz", ".tgz"}, "application/x-7z-compressed": {".7z"},
}

// named returns a file's name with an ending that fits its type.
func named(name, mediaType string) string {
	allowed := endings[mediaType]
	if len(allowed) == 0 || slices.Contains(allowed, strings.ToLower(path.Ext(name))) {
		return name
	}
	return name + allowed[0]
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
