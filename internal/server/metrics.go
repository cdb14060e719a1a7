package server

import (
	"context"
	"time"

	"github.com/prometheus/client_golang/prometheus"

	"amberproof/internal/app"
)

// runCollector counts runs by state when asked.
type runCollector struct {
	app  *app.App
	desc *prometheus.Desc
}

// newRunCollector collects from the database itself: a counter kept beside it would be
// wrong after every crash.
func newRunCollector(a *app.App) prometheus.Collector {
	return &runCollector{a, prometheus.NewDesc("amberproof_runs", "Runs by state.", []string{"state"}, nil)}
}

// Describe implements prometheus.Collector.
func (c *runCollector) Describe(ch chan<- *prometheus.Desc) { ch <- c.desc }

// Collect implements prometheus.Collector. It waits two seconds at most, so that a
// database that is away does not hold up the other numbers.
func (c *runCollector) Collect(ch chan<- prometheus.Metric) {
	ctx, cancel := context.WithTimeout(context.Background(), 2*time.Second)
	defer cancel()
	count, err := c.app.Runs.Count(ctx)
	if err != nil {
		ch <- prometheus.NewInvalidMetric(c.desc, err)
		return
	}
	for s, n := range count {
		ch <- prometheus.MustNewConstMetric(c.desc, prometheus.GaugeValue, float64(n), string(s))
	}
}
