package files

import (
	"archive/zip"
	"bufio"
	"bytes"
	"context"
	"encoding/binary"
	"errors"
	"hash/crc32"
	"image"
	"image/color"
	"image/gif"
	"image/jpeg"
	"image/png"
	"io"
	"io/fs"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"testing/iotest"
	"time"

	"github.com/stretchr/testify/require"
)

var all = Rules{MaxBytes: 1 << 20, Kinds: []Kind{Picture, PDF, Video, Sound, Text, Document}}

func disk(t *testing.T) *Disk {
	t.Helper()
	d, err := NewDisk(t.TempDir())
	require.NoError(t, err)
	return d
}

// kept lists what a store holds, unfinished files included.
func kept(t *testing.T, d *Disk) []string {
	t.Helper()
	var names []string
	require.NoError(t, filepath.WalkDir(d.folder, func(_ string, e fs.DirEntry, err error) error {
		if err == nil && !e.IsDir() {
			names = append(names, e.Name())
		}
		return err
	}))
	return names
}

func pngOf(t *testing.T, width, height int) []byte {
	t.Helper()
	picture := image.NewNRGBA(image.Rect(0, 0, width, height))
	for x := range width {
		picture.Set(x, x%height, color.NRGBA{200, uint8(x), 10, 255})
	}
	var out bytes.Buffer
	require.NoError(t, png.Encode(&out, picture))
	return out.Bytes()
}

func TestContentsAreKeptOnceAndReadInParts(t *testing.T) {
	d, ctx := disk(t), context.Background()
	first, size, err := d.Put(ctx, strings.NewReader("deck plan"))
	require.NoError(t, err)
	require.EqualValues(t, 9, size)
	again, _, err := d.Put(ctx, strings.NewReader("deck plan"))
	require.NoError(t, err)
	require.Equal(t, first, again)
	require.Len(t, kept(t, d), 1)
	f, err := d.Open(ctx, first)
	require.NoError(t, err)
	_, err = f.Seek(5, io.SeekStart)
	require.NoError(t, err)
	rest, err := io.ReadAll(f)
	require.NoError(t, err)
	require.Equal(t, "plan", string(rest))
	require.NoError(t, f.Close())
	found := 0
	require.NoError(t, d.Each(ctx, func(hash string, since time.Time) error { found++; require.Equal(t, first, hash); return nil }))
	require.Equal(t, 1, found)
	require.NoError(t, d.Remove(ctx, first))
	require.NoError(t, d.Remove(ctx, first))
	_, err = d.Open(ctx, first)
	require.ErrorIs(t, err, fs.ErrNotExist)
	for _, odd := range []string{"", "../../etc/passwd", strings.Repeat("z", 64)} {
		_, err = d.Open(ctx, odd)
		require.ErrorIs(t, err, fs.ErrNotExist)
	}
}

// SHA-256 of "abc": the first example of FIPS 180-2, appendix B.1.
func TestHashIsTheStandardOne(t *testing.T) {
	hash, _, err := disk(t).Put(context.Background(), strings.NewReader("abc"))
	require.NoError(t, err)
	require.Equal(t, "ba7816bf8f01cfea414140de5dae2223b00361a396177a9cb410ff61f20015ad", hash)
}

// A disk that is full leaves nothing behind. /dev/full answers every write as
// a full disk does.
func TestAFullDisk(t *testing.T) {
	d := disk(t)
	d.create = func() (*os.File, error) {
		full := filepath.Join(d.folder, "unfinished", "full")
		require.NoError(t, os.Symlink("/dev/full", full))
		return os.OpenFile(full, os.O_WRONLY, 0)
	}
	_, err := Receive(context.Background(), d, strings.NewReader("some words"), Claim{Name: "a.txt"}, all)
	require.ErrorIs(t, err, ErrFull)
	require.Empty(t, kept(t, d))
}

// What a crash left is removed at the next start; what another server on the same
// folder is writing just then is not.
func TestACrashLeavesNoUnfinishedFile(t *testing.T) {
	d := disk(t)
	left, others := filepath.Join(d.folder, "unfinished", "123"), filepath.Join(d.folder, "unfinished", "456")
	require.NoError(t, os.WriteFile(left, []byte("half"), 0o600))
	require.NoError(t, os.WriteFile(others, []byte("half"), 0o600))
	require.NoError(t, os.Chtimes(left, time.Time{}, time.Now().Add(-time.Hour)))
	_, err := NewDisk(d.folder)
	require.NoError(t, err)
	require.Equal(t, []string{"456"}, kept(t, d))
}

func TestPicturesGetASizeAndASmallOne(t *testing.T) {
	d, ctx := disk(t), context.Background()
	got, err := Receive(ctx, d, bytes.NewReader(pngOf(t, 1200, 600)), Claim{Name: `C:\photos\ramp.PNG`}, all)
	require.NoError(t, err)
	require.Equal(t, "ramp.PNG", got.Name)
	require.Equal(t, "image/png", got.Type)
	require.Equal(t, []int{1200, 600}, []int{got.Width, got.Height})
	f, err := d.Open(ctx, got.ThumbHash)
	require.NoError(t, err)
	defer f.Close()
	small, format, err := image.DecodeConfig(f)
	require.NoError(t, err)
	require.Equal(t, "jpeg", format)
	require.Equal(t, []int{480, 240}, []int{small.Width, small.Height})
	tiny, err := Receive(ctx, d, bytes.NewReader(pngOf(t, 20, 10)), Claim{Name: "dot.png"}, all)
	require.NoError(t, err)
	require.Empty(t, tiny.ThumbHash, "a small picture needs none")
}

// A photo that a phone took upright carries its turn in the file (Exif 2.3,
// orientation 6: turn by 90 degrees); the size and the small picture follow it.
func TestPhotosStandUpright(t *testing.T) {
	var plain bytes.Buffer
	require.NoError(t, jpeg.Encode(&plain, image.NewGray(image.Rect(0, 0, 1000, 500)), nil))
	exif := []byte{0xff, 0xe1, 0, 34, 'E', 'x', 'i', 'f', 0, 0, 'M', 'M', 0, 42, 0, 0, 0, 8, 0, 1, 0x01, 0x12, 0, 3, 0, 0, 0, 1, 0, 6, 0, 0, 0, 0, 0, 0}
	turned := append(append(append([]byte{}, plain.Bytes()[:2]...), exif...), plain.Bytes()[2:]...)
	got, err := Receive(context.Background(), disk(t), bytes.NewReader(turned), Claim{Name: "photo.jpg"}, all)
	require.NoError(t, err)
	require.Equal(t, []int{500, 1000}, []int{got.Width, got.Height})
}

func TestWhatIsNotLetIn(t *testing.T) {
	var bomb bytes.Buffer
	z := zip.NewWriter(&bomb)
	inside, err := z.Create("zeros")
	require.NoError(t, err)
	_, err = inside.Write(make([]byte, 50<<20))
	require.NoError(t, err)
	require.NoError(t, z.Close())
	var animated bytes.Buffer
	require.NoError(t, gif.Encode(&animated, image.NewPaletted(image.Rect(0, 0, 2, 2), color.Palette{color.Black}), nil))
	huge := hugePNG(60_000, 60_000)
	var tooBig *TooBigError
	var wrongType *WrongTypeError
	for name, c := range map[string]struct {
		claim   Claim
		content []byte
		is      func(error) bool
	}{
		"a picture that is a script":  {Claim{Name: "cat.png"}, []byte("<script>alert(1)</script>"), func(err error) bool { return errors.Is(err, ErrNotAPicture) }},
		"a picture cut off":           {Claim{Name: "cat.png"}, pngOf(t, 400, 400)[:60], func(err error) bool { return errors.Is(err, ErrNotAPicture) }},
		"a picture of 3.6 gigapixels": {Claim{Name: "bomb.png"}, huge, func(err error) bool { return errors.Is(err, ErrHugePicture) }},
		"a drawing with a script":     {Claim{Name: "logo.svg"}, []byte(`<svg xmlns="http://www.w3.org/2000/svg"><script>alert(1)</script></svg>`), func(err error) bool { return errors.As(err, &wrongType) }},
		"a page":                      {Claim{Name: "page.txt"}, []byte("<!doctype html><html><body>hello"), func(err error) bool { return errors.As(err, &wrongType) }},
		"a zip bomb":                  {Claim{Name: "photos.zip"}, bomb.Bytes(), func(err error) bool { return errors.As(err, &wrongType) }},
		"a program":                   {Claim{Name: "setup.pdf"}, []byte("\x7fELF\x02\x01\x01\x00\x00\x00\x00\x00\x00\x00\x00\x00\x02\x00>\x00"), func(err error) bool { return errors.As(err, &wrongType) }},
		"nothing":                     {Claim{Name: "empty.txt"}, nil, func(err error) bool { return errors.Is(err, ErrNoContent) }},
		"2 GB, as told":               {Claim{Name: "film.txt", Size: 2 << 30}, []byte("x"), func(err error) bool { return errors.As(err, &tooBig) }},
		"too much, not told":          {Claim{Name: "a.txt"}, bytes.Repeat([]byte("words "), 1<<18), func(err error) bool { return errors.As(err, &tooBig) }},
		"less than was told":          {Claim{Name: "a.txt", Size: 100}, []byte("words"), func(err error) bool { return errors.Is(err, ErrBrokenOff) }},
	} {
		t.Run(name, func(t *testing.T) {
			d := disk(t)
			_, err := Receive(context.Background(), d, bytes.NewReader(c.content), c.claim, all)
			require.True(t, c.is(err), "got: %v", err)
			if !strings.HasPrefix(name, "a picture") {
				require.Empty(t, kept(t, d), "what is refused leaves nothing behind")
			} // of pictures, the content is swept when nothing needs it
		})
	}
	_, err = Receive(context.Background(), disk(t), bytes.NewReader(animated.Bytes()), Claim{Name: "a.gif"}, all)
	require.NoError(t, err)
}

// The sender's connection breaks in the middle: there is no half file.
func TestABrokenUpload(t *testing.T) {
	d := disk(t)
	_, err := Receive(context.Background(), d, io.MultiReader(strings.NewReader(strings.Repeat("words ", 10_000)), iotest.ErrReader(io.ErrUnexpectedEOF)), Claim{Name: "a.txt"}, all)
	require.ErrorIs(t, err, ErrBrokenOff)
	require.Empty(t, kept(t, d))
	// What is a part of another file's content must not take that one along.
	whole, err := Receive(context.Background(), d, strings.NewReader("words"), Claim{Name: "a.txt"}, all)
	require.NoError(t, err)
	_, err = Receive(context.Background(), d, strings.NewReader("words"), Claim{Name: "a.txt", Size: 9}, all)
	require.ErrorIs(t, err, ErrBrokenOff)
	require.Equal(t, []string{whole.Hash}, kept(t, d))
	require.NoError(t, d.Remove(context.Background(), whole.Hash))
	ctx, cancel := context.WithCancel(context.Background())
	cancel()
	_, _, err = d.Put(ctx, strings.NewReader("x"))
	require.ErrorIs(t, err, context.Canceled)
	require.Empty(t, kept(t, d))
}

func TestNames(t *testing.T) {
	for name, want := range map[string]string{
		"../../etc/passwd":        "passwd",
		`C:\Users\wren\chair.jpg`: "chair.jpg",
		"":                        "file",
		"..":                      "file",
		"a\u202egpj.exe":          "agpj.exe",
		"line\nbreak.pdf":         "line break.pdf",
	} {
		require.Equal(t, want, CleanName(name), "%q", name)
	}
	long := CleanName(strings.Repeat("x", 5000) + ".pdf")
	require.Len(t, []rune(long), nameLimit)
	require.True(t, strings.HasSuffix(long, ".pdf"), "the ending is kept")
}

// manyScans returns the segments of a progressive JPEG (ITU-T T.81) with so many
// scans, each as short as can be.
func manyScans(scans, side int) []byte {
	var b bytes.Buffer
	segment := func(marker byte, content ...byte) {
		b.Write([]byte{0xFF, marker})
		_ = binary.Write(&b, binary.BigEndian, uint16(len(content)+2)) // a buffer takes everything
		b.Write(content)
	}
	b.Write([]byte{0xFF, 0xD8})
	segment(0xE0, 'J', 'F', 'I', 'F', 0, 1, 1, 0, 0, 1, 0, 1, 0, 0)
	segment(0xDB, append([]byte{0}, bytes.Repeat([]byte{1}, 64)...)...)
	segment(0xC2, 8, byte(side>>8), byte(side), byte(side>>8), byte(side), 1, 1, 0x11, 0)
	for range scans {
		segment(0xDA, 1, 1, 0, 0, 0, 0)
		b.Write([]byte{0x12, 0xFF, 0x00, 0x34})
	}
	b.Write([]byte{0xFF, 0xD9})
	return b.Bytes()
}

// A small file must not cost minutes: how often a picture is gone over counts
// like how many pixels it has.
func TestAPictureOfManyScansIsRefusedUnread(t *testing.T) {
	for _, c := range [][2]int{{101, 100}, {200, 4000}, {2000, 4000}, {30, 4000}} {
		_, err := Receive(context.Background(), disk(t), bytes.NewReader(manyScans(c[0], c[1])), Claim{Name: "a.jpg"}, all)
		require.ErrorIs(t, err, ErrHugePicture, "%d scans of %d pixels square", c[0], c[1])
	}
	made := inspect(bufio.NewReader(bytes.NewReader(manyScans(10, 400))))
	require.Equal(t, jpegMake{scans: 10, progressive: true, orientation: 1}, made)
}

// However many pictures come at once, reading them has a budget; who finds no
// room in time is told so, and what would need more than all of it is let in
// without a small picture.
func TestReadingPicturesHasABudget(t *testing.T) {
	require.NoError(t, decoding.Acquire(context.Background(), decodeBudget))
	ctx, cancel := context.WithCancel(context.Background())
	cancel()
	r := Received{}
	d := disk(t)
	var err error
	r.Hash, _, err = d.Put(context.Background(), bytes.NewReader(pngOf(t, 900, 900)))
	require.NoError(t, err)
	require.ErrorIs(t, r.look(ctx, d), ErrBusy)
	decoding.Release(decodeBudget)

	got, err := Receive(context.Background(), d, bytes.NewReader(hugePNG(7000, 7000)), Claim{Name: "a.png"}, all)
	require.NoError(t, err)
	require.Equal(t, 7000, got.Width)
	require.Empty(t, got.ThumbHash)
}

// hugePNG returns the head of a PNG of a size, without its picture.
func hugePNG(width, height uint32) []byte {
	var out bytes.Buffer
	if err := png.Encode(&out, image.NewNRGBA(image.Rect(0, 0, 4, 4))); err != nil {
		panic(err) // a buffer takes everything
	}
	head := out.Bytes()
	binary.BigEndian.PutUint32(head[16:], width)
	binary.BigEndian.PutUint32(head[20:], height)
	binary.BigEndian.PutUint32(head[29:], crc32.ChecksumIEEE(head[12:29]))
	return head
}

// A file that is not let in takes nobody else's content along.
func TestARefusedFileLeavesTheSameContentOfOthers(t *testing.T) {
	d, ctx := disk(t), context.Background()
	content := manyScans(200, 4000)
	hash, _, err := d.Put(ctx, bytes.NewReader(content)) // let in before there was this limit
	require.NoError(t, err)
	_, err = Receive(ctx, d, bytes.NewReader(content), Claim{Name: "a.jpg"}, all)
	require.ErrorIs(t, err, ErrHugePicture)
	f, err := d.Open(ctx, hash)
	require.NoError(t, err)
	require.NoError(t, f.Close())
}

// Whoever opens a downloaded file opens it by its ending.
func TestAFileIsCalledWhatItIs(t *testing.T) {
	for name, want := range map[string]string{
		"invoice.html": "invoice.html.txt", "setup.bat": "setup.bat.txt", "a.hta": "a.hta.txt", "notes": "notes.txt", "notes.TXT": "notes.TXT", "list.csv": "list.csv",
	} {
		got, err := Receive(context.Background(), disk(t), strings.NewReader("plain words, nothing else"), Claim{Name: name}, all)
		require.NoError(t, err)
		require.Equal(t, want, got.Name)
	}
}
