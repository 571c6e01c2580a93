package floor

import (
	"stoop/internal/view"
)

// FloorMoved tells that queues or loads changed; who shows them asks anew.
type FloorMoved struct {
	Type string `json:"type" enum:"floor"`
}

// WaitMoved tells a waiting visitor how they stand.
type WaitMoved struct {
	Type   string        `json:"type" enum:"wait"`
	ChatID string        `json:"chatId"`
	Wait   view.WaitView `json:"wait"`
}
