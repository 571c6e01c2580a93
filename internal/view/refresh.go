package view

// Refresh asks a console to load its Desk anew: settings or hours changed.
type Refresh struct {
	Type string `json:"type" enum:"refresh"`
}
