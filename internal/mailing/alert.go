package mailing

import (
	"context"
	"time"

	"github.com/jackc/pgx/v5"

	"stoop/core/access"
	"stoop/core/alert"
	"stoop/internal/setup/settings"
	"stoop/internal/wording"
)

// SendAlert tells somebody of the team of an alert. It is a job.
type SendAlert struct {
	OperatorID string `json:"operatorId"`
	AlertID    string `json:"alertId"`
}

// Kind names the job to River.
func (SendAlert) Kind() string { return "send_alert" }

// SendAlert tells somebody of the team of an alert, soon, if they want such mail, as part
// of a transaction.
func (room *Room) SendAlert(ctx context.Context, tx pgx.Tx, operatorID, alertID string) error {
	return room.Jobs.Add(ctx, tx, SendAlert{operatorID, alertID}, room.Now())
}

// sendAlert writes to who wants mail of alerts, unless the alert was over by the time.
func (room *Room) sendAlert(ctx context.Context, j SendAlert) error {
	if room.Mail == nil {
		return nil
	}
	o, err := room.Settings.Tables.OperatorByID(ctx, j.OperatorID)
	if err != nil || !o.Active {
		return err
	}
	p, err := settings.PreferencesOf(o)
	if err != nil || p.MailAlerts == "" || p.MailAlerts == "never" {
		return err
	}
	s, err := room.Settings.Get(ctx)
	if err != nil || !s.Actor(o.ID).May(access.SeeEveryFloor) {
		return err
	}
	a, err := room.Alerts.Raised(ctx, j.AlertID)
	if err != nil || a.EndedAt != nil || p.MailAlerts == "mine" && !s.IsMember(o.ID, a.DepartmentID) {
		return err
	}
	words := wording.In(p.Language)
	told := struct {
		Kind, Department, Visitor, Words, Link string
		Worst                                  int
		Wait                                   string
	}{string(a.Kind), s.Departments[a.DepartmentID].Name, a.Visitor, a.Words, room.URL + "/floor", a.Worst, clock(seconds(a.Worst))}
	if a.Kind == alert.Rating {
		told.Link = room.URL + "/feedback?toRead=1"
	}
	return room.toTeam(ctx, o.Email, words, "alert", told, j.AlertID+".alert."+o.ID)
}

func seconds(n int) *float64 {
	s := (time.Duration(n) * time.Second).Seconds()
	return &s
}
