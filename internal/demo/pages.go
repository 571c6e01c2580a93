package demo

import (
	"context"
	"time"

	"github.com/google/uuid"
	"gorm.io/gorm/clause"

	"stoop/internal/library"
	"stoop/internal/setup/settings"
	"stoop/internal/store"
)

// savedPages are those of the ferry line's site that operators show visitors: folder, title, path.
var savedPages = [][3]string{
	{"Booking", "Book a crossing", "/book"},
	{"Booking", "Change or cancel my booking", "/my-booking"},
	{"Travelling", "Timetable", "/timetable"},
	{"Travelling", "Fares", "/fares"},
	{"Travelling", "Travelling with animals", "/animals"},
	{"Travelling", "Disruptions today", "/disruptions"},
	{"Freight", "Freight and lorries", "/freight"},
}

// SeedPages stores the pages of the ferry line's site that operators show, once.
func SeedPages(ctx context.Context, s *store.Store, site string, now time.Time) error {
	author, err := settings.On(s).OperatorByEmail(ctx, Logins[3].Email)
	if err != nil {
		return err
	}
	rows := make([]library.SavedPage, len(savedPages))
	for i, p := range savedPages {
		rows[i] = library.SavedPage{ID: uuid.NewString(), Folder: p[0], Title: p[1], URL: site + p[2], Version: 1, AuthorID: author.ID, CreatedAt: now, UpdatedAt: now}
	}
	return s.DB.WithContext(ctx).Clauses(clause.OnConflict{DoNothing: true}).Create(&rows).Error
}
