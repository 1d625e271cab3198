package site

import (
	"context"
	"fmt"
	"net/http"
	"strings"
	"time"
	_ "time/tzdata" // a machine without zone files knows them too

	"github.com/gin-gonic/gin"

	"restbend/core/trade"
)

// ZoneSetting names the practice's time zone among its settings.
const ZoneSetting = "time_zone"

// loadZone takes the practice's time zone into use; where none is set it is this machine's.
func (s *Site) loadZone(ctx context.Context) error {
	name, err := s.Store.Setting(ctx, ZoneSetting)
	if err != nil {
		return err
	}
	zone := time.Local
	if name != "" {
		if zone, err = time.LoadLocation(name); err != nil {
			return fmt.Errorf("the practice's time zone: %w", err)
		}
	}
	s.Zone.Store(zone)
	if s.Today == nil {
		s.Today = func() trade.Day { return trade.DayOf(time.Now(), s.Zone.Load()) }
	}
	return nil
}

// saveZone sets the practice's time zone: what is today here.
func (s *Site) saveZone(c *gin.Context) {
	name := strings.TrimSpace(c.PostForm("time_zone"))
	if _, err := time.LoadLocation(name); name != "" && err != nil || name == "Local" {
		s.showPractice(
			c,
			http.StatusUnprocessableEntity,
			practicePage{
				Zone: name,
				ZoneWrong: fmt.Sprintf(
					"Time zone: found %q, allowed: a place such as Europe/Vienna, or nothing for this machine's.",
					name,
				),
			},
		)
		return
	}
	if err := s.Store.Set(c, ZoneSetting, name); err != nil {
		s.Failed(c, err)
		return
	}
	if err := s.loadZone(c); err != nil {
		s.Failed(c, err)
		return
	}
	c.Redirect(http.StatusSeeOther, "/practice")
}
