package store

import (
	"context"
	"fmt"

	"github.com/google/uuid"

	"kaiku/core/dossier"
)

// toRegister is what a device was recorded to be for its servers, before that was a record of its own.
type toRegister struct {
	Device       string
	HouseholdID  string
	RecognisedAs string
	Admission    string
}

// moveToRegister writes, through the door, the register entries that an older schema kept with the
// devices: one for each server that the device has a path to, or for each there is.
func (s *Store) moveToRegister(ctx context.Context) error {
	var rows []toRegister
	if err := s.reader.WithContext(ctx).Raw("SELECT device, household_id, coalesce(recognised_as, '') AS recognised_as, coalesce(admission, '') AS admission FROM to_register ORDER BY household_id, device").Scan(&rows).Error; err != nil {
		return asStoreError(err)
	}
	for _, r := range rows {
		home := homeID(r.HouseholdID)
		d, err := s.Load(ctx, home)
		if err != nil {
			return fmt.Errorf("load %s: %w", home, err)
		}
		cause := Cause{Actor: d.Home().Custodian, Why: "Moved from the device by an upgrade of Kaiku"}
		if _, err := s.Write(ctx, home, cause, func(d *dossier.Dossier) error { return register(d, r) }); err != nil {
			return fmt.Errorf("write register entries of %s: %w", home, err)
		}
		if err := s.writer.WithContext(ctx).Exec("DELETE FROM to_register WHERE device = ?", r.Device).Error; err != nil {
			return asStoreError(err)
		}
	}
	return nil
}

func register(d *dossier.Dossier, r toRegister) error {
	x := d.Index()
	device := dossier.ID[dossier.Device](r.Device)
	servers := map[dossier.ID[dossier.Device]]bool{}
	for _, p := range d.Paths {
		if _, server := x.ServerOf(p); p.Device == device && server.ID != "" {
			servers[server.ID] = true
		}
	}
	if len(servers) == 0 {
		for _, source := range d.Sources {
			servers[source.Device] = true
		}
	}
	for _, server := range d.Devices {
		if _, known := x.Register(device, server.ID); !servers[server.ID] || known || server.ID == device {
			continue
		}
		e := dossier.RegisterEntry{Device: device, Server: server.ID, RecognisedAs: r.RecognisedAs, Admission: dossier.Admission(r.Admission)}
		e.ID = dossier.ID[dossier.RegisterEntry](uuid.Must(uuid.NewV7()).String())
		d.RegisterEntries.Put(e)
	}
	return nil
}
