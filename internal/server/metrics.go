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

func newRunCollector(a *app.App) prometheus.Collector {
	return &runCollector{a, prometheus.NewDesc("amberproof_runs", "Runs by state.", []string{"state"}, nil)}
}

func (c *runCollector) Describe(ch chan<- *prometheus.Desc) { ch <- c.desc }

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
