package server

import (
	"net/http"
	"strconv"
	"time"

	"github.com/gin-gonic/gin"
	"github.com/jackc/pgx/v5/pgxpool"
	"github.com/prometheus/client_golang/prometheus"
	"github.com/prometheus/client_golang/prometheus/collectors"
	"github.com/prometheus/client_golang/prometheus/promhttp"

	"candlepath/internal/app"
	"candlepath/internal/platform/background"
	"candlepath/internal/web/reader"
	"candlepath/internal/web/urls"
)

// metrics counts what an instance does, for Prometheus.
type metrics struct {
	requests *prometheus.CounterVec
	seconds  *prometheus.HistogramVec
	pages    [600]prometheus.Counter // of the reader site, by status
	page     prometheus.Observer
	handler  http.Handler
}

// readerRoute stands for every address of the reader site.
const readerRoute = "reader"

func newMetrics(pool *pgxpool.Pool, a *app.App, site *reader.Site, work *background.Group) *metrics {
	m := &metrics{
		requests: prometheus.NewCounterVec(prometheus.CounterOpts{Name: "candlepath_requests_total", Help: "Requests answered, by route and status."}, []string{"route", "status"}),
		seconds: prometheus.NewHistogramVec(prometheus.HistogramOpts{
			Name: "candlepath_request_seconds", Help: "How long answers took, by route.", Buckets: []float64{.0005, .002, .01, .05, .1, .25, 1, 5, 30},
		}, []string{"route"}),
	}
	for status := range m.pages {
		if status == 200 || status == 304 || status == 301 || status == 404 {
			m.pages[status] = m.requests.WithLabelValues(readerRoute, strconv.Itoa(status))
		}
	}
	m.page = m.seconds.WithLabelValues(readerRoute)
	number := func(name, help string, f func() float64) prometheus.Collector {
		return prometheus.NewCounterFunc(prometheus.CounterOpts{Name: name, Help: help}, f)
	}
	level := func(name, help string, f func() float64) prometheus.Collector {
		return prometheus.NewGaugeFunc(prometheus.GaugeOpts{Name: name, Help: help}, f)
	}
	all := prometheus.NewRegistry()
	all.MustRegister(
		m.requests, m.seconds, collectors.NewGoCollector(), collectors.NewProcessCollector(collectors.ProcessCollectorOpts{}),
		number("candlepath_acts_total", "Acts on the plan done here.", func() float64 { return float64(a.Counts.Acts.Load()) }),
		number("candlepath_editions_total", "Editions published here.", func() float64 { return float64(a.Counts.Editions.Load()) }),
		number("candlepath_tree_cache_hits_total", "Times the sitemap was at hand.", func() float64 { return float64(a.Counts.TreeHits.Load()) }),
		number("candlepath_tree_cache_misses_total", "Times the sitemap was loaded.", func() float64 { return float64(a.Counts.TreeMisses.Load()) }),
		number("candlepath_page_cache_misses_total", "Reader pages that were composed; all others were at hand.", func() float64 { return float64(site.Composed()) }),
		number("candlepath_background_panics_total", "Panics of work beside requests that were caught.", func() float64 { return float64(work.Panics()) }),
		level("candlepath_background_failing", "Kinds of work beside requests that failed last.", func() float64 { return float64(len(work.Failing())) }),
		level("candlepath_edition_newest", "Number of the newest edition that this instance knows of.", func() float64 { newest, _ := site.Lag(); return float64(newest) }),
		level("candlepath_edition", "Number of the edition that readers get here.", func() float64 { return float64(site.Edition()) }),
		level("candlepath_pool_connections", "Connections to the database.", func() float64 { return float64(pool.Stat().TotalConns()) }),
		level("candlepath_pool_connections_busy", "Connections to the database in use.", func() float64 { return float64(pool.Stat().AcquiredConns()) }),
		number("candlepath_pool_waits_total", "Times a connection had to be waited for.", func() float64 { return float64(pool.Stat().EmptyAcquireCount()) }),
	)
	m.handler = promhttp.HandlerFor(all, promhttp.HandlerOpts{})
	return m
}

// count counts a request once it is answered.
func (m *metrics) count(c *gin.Context) {
	began := time.Now()
	c.Next()
	route, status := c.FullPath(), c.Writer.Status()
	if route == "" {
		m.page.Observe(time.Since(began).Seconds())
		if status < len(m.pages) && m.pages[status] != nil {
			m.pages[status].Inc()
			return
		}
		route = readerRoute
	} else if route != urls.Live { // which lasts as long as a window is open
		m.seconds.WithLabelValues(route).Observe(time.Since(began).Seconds())
	}
	m.requests.WithLabelValues(route, strconv.Itoa(status)).Inc()
}
