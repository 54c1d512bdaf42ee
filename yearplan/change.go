package yearplan

import (
	"errors"
	"slices"

	"roundyear/calendar"
	"roundyear/civil"
)

// FiscalChange is what a call says of the calendar named fiscal. What is nil or empty stays as
// it is in the plan.
type FiscalChange struct {
	// Starts is the month on whose first day its years start.
	Starts    *civil.Month
	NamedBy   *calendar.NamedBy
	YearLabel string
}

// ErrNotOfMonths is the error for a fiscal calendar of weeks that is changed without a month that its
// years start in.
var ErrNotOfMonths = errors.New("the calendar fiscal does not consist of months")

// ChangeFiscal puts a fiscal calendar of months in the place of the plan's calendar of that name. The error
// is ErrNotOfMonths, or that of the label.
func (p *Plan) ChangeFiscal(change FiscalChange) error {
	if change == (FiscalChange{}) {
		return nil
	}
	fiscal := calendar.FiscalMonths{Name: "fiscal", Starts: civil.January, Weeks: p.Weeks}
	place := slices.IndexFunc(p.Fiscal, func(c calendar.Calendar) bool { return c.Name() == fiscal.Name })
	if planned, found := p.Months[fiscal.Name]; found {
		fiscal = planned
	} else if place >= 0 && change.Starts == nil {
		return ErrNotOfMonths
	}
	if change.Starts != nil {
		fiscal.Starts, fiscal.StartDay = *change.Starts, 1
	}
	if change.NamedBy != nil {
		fiscal.NamedBy = *change.NamedBy
	}
	if change.YearLabel != "" {
		labels := calendar.Labels{calendar.Year: change.YearLabel}
		for unit, label := range fiscal.Labels {
			if unit != calendar.Year {
				labels[unit] = label
			}
		}
		fiscal.Labels = labels
	}
	made, err := calendar.NewFiscalMonths(fiscal)
	if err != nil {
		return err
	}
	if place >= 0 {
		p.Fiscal[place] = made
	} else {
		p.Fiscal = append([]calendar.Calendar{made}, p.Fiscal...)
	}
	return nil
}
