package account

import (
	"bytes"
	"context"
	"image"
	"image/jpeg"
	_ "image/png" // photos may come as PNG
	"net/http"

	"golang.org/x/image/draw"
	"gorm.io/gorm"

	"stoop/core/access"
	"stoop/core/chat"
	"stoop/core/form"
	"stoop/internal/problem"
	"stoop/internal/setup/settings"
)

// Profile is what somebody of the team says of themselves.
type Profile struct {
	OwnWords
	Photo  string `json:"photo" doc:"Address; empty for none"`
	Factor bool   `json:"factor" doc:"Two-factor is on"`
	Codes  int    `json:"codes" doc:"Recovery codes that are left"`
}

// OwnWords are what visitors read of somebody.
type OwnWords struct {
	ShownName string `json:"shownName" maxLength:"200" doc:"To visitors; empty for the name"`
	Welcome   string `json:"welcome" maxLength:"500" doc:"Said to a visitor whose chat they take; empty for nothing"`
}

// OwnProfile returns what somebody says of themselves.
func (room *Room) OwnProfile(ctx context.Context, by access.Actor) (Profile, error) {
	o, err := room.Settings.Tables.OperatorByID(ctx, by.ID)
	if err != nil {
		return Profile{}, err
	}
	p := Profile{OwnWords: OwnWords{o.ShownName, o.Welcome}, Photo: o.Photo(), Factor: len(o.TOTPSecret) > 0}
	err = room.Settings.Tables.Pool().QueryRow(ctx, "select count(*) from recovery_codes where operator_id = $1 and used_at is null", o.ID).Scan(&p.Codes)
	return p, err
}

// SaveProfile changes what somebody says of themselves.
func (room *Room) SaveProfile(ctx context.Context, by access.Actor, in OwnWords) (Profile, error) {
	shown, welcome := chat.CleanLine(in.ShownName, chat.NameLimit), chat.CleanLine(in.Welcome, 300)
	err := room.change(ctx, func(tx *gorm.DB) error {
		return settings.SetOwnWords(tx, by.ID, shown, welcome)
	})
	if err != nil {
		return Profile{}, err
	}
	return room.OwnProfile(ctx, by)
}

// Bounds of a photo.
const (
	photoSide   = 256
	photoBytes  = 4 << 20
	photoPixels = 16 << 20
)

// SavePhoto takes a photo of somebody, square or cut to its middle; nothing takes it away.
func (room *Room) SavePhoto(ctx context.Context, by access.Actor, picture []byte) (Profile, error) {
	var square []byte
	if len(picture) > 0 {
		var err error
		if square, err = squared(picture); err != nil {
			return Profile{}, err
		}
	}
	err := room.change(ctx, func(tx *gorm.DB) error {
		if square == nil {
			if err := tx.Exec("delete from operator_photos where operator_id = ?", by.ID).Error; err != nil {
				return err
			}
			return settings.NoPhoto(tx, by.ID)
		}
		if err := tx.Exec("insert into operator_photos (operator_id, jpeg) values (?, ?) on conflict (operator_id) do update set jpeg = excluded.jpeg", by.ID, square).Error; err != nil {
			return err
		}
		return settings.NextPhoto(tx, by.ID, room.Now().Unix())
	})
	if err != nil {
		return Profile{}, err
	}
	return room.OwnProfile(ctx, by)
}

// squared draws a picture anew as a small square: nothing of the file that came is kept.
func squared(picture []byte) ([]byte, error) {
	bad := form.Refuse([]form.Wrong{{Field: "photo", Words: "This is no picture that can be used. Choose a PNG or JPEG of up to 4 MB."}})
	if len(picture) > photoBytes {
		return nil, bad
	}
	config, _, err := image.DecodeConfig(bytes.NewReader(picture))
	if err != nil || config.Width < 1 || config.Height < 1 || config.Width*config.Height > photoPixels {
		return nil, bad
	}
	decoded, _, err := image.Decode(bytes.NewReader(picture))
	if err != nil {
		return nil, bad
	}
	size := decoded.Bounds()
	side := min(size.Dx(), size.Dy())
	middle := image.Rect(0, 0, side, side).Add(size.Min).Add(image.Pt((size.Dx()-side)/2, (size.Dy()-side)/2))
	out := image.NewRGBA(image.Rect(0, 0, photoSide, photoSide))
	draw.Draw(out, out.Bounds(), image.White, image.Point{}, draw.Src)
	draw.CatmullRom.Scale(out, out.Bounds(), decoded, middle, draw.Over, nil)
	var file bytes.Buffer
	if err := jpeg.Encode(&file, out, &jpeg.Options{Quality: 88}); err != nil {
		return nil, err
	}
	return file.Bytes(), nil
}

// Photo returns the photo of somebody of the team. Visitors see it too.
func (room *Room) Photo(ctx context.Context, operatorID string) ([]byte, error) {
	var file []byte
	err := room.Settings.Tables.Pool().QueryRow(ctx, "select jpeg from operator_photos where operator_id = $1", operatorID).Scan(&file)
	if err != nil {
		return nil, problem.New(http.StatusNotFound, "not-found", "Not found", "There is nothing at this address.")
	}
	return file, nil
}
