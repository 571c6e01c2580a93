package view

import (
	"stoop/internal/people/register"
)

// ContactView is a contact as it is edited. Version 0: not stored yet.
type ContactView struct {
	ID      string            `json:"id,omitempty"`
	Version int64             `json:"version" doc:"As it was read: saving refuses to overwrite a colleague's change"`
	Name    string            `json:"name"`
	Email   string            `json:"email"`
	Phone   string            `json:"phone"`
	Company string            `json:"company"`
	Claimed bool              `json:"claimed" doc:"Found by an email that the visitor gave and nobody has verified"`
	OwnerID *string           `json:"ownerId,omitempty" doc:"The operator who looks after them; left out it stays, empty is nobody"`
	Fields  map[string]string `json:"fields"`
}

// Contact returns a contact as it is edited.
func Contact(c register.Contact) ContactView {
	v := ContactView{ID: c.ID, Version: c.Version, Name: c.Name, Phone: c.Phone, Company: c.Company, OwnerID: c.AccountOwnerID, Fields: map[string]string{}}
	if c.Email != nil {
		v.Email = *c.Email
	}
	for name, value := range c.Fields {
		v.Fields[name] = value
	}
	return v
}
