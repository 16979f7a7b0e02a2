// Package app joins the areas of use cases, one folder each, named like the stops
// of the path. A use case loads, asks the core, and saves in one transaction; it
// decides nothing about the job that the core could decide.
package app

import (
	"context"
	"fmt"
	"time"

	"candlepath/internal/app/account"
	"candlepath/internal/app/addresses"
	"candlepath/internal/app/editions"
	appnavigation "candlepath/internal/app/navigation"
	"candlepath/internal/app/pages"
	"candlepath/internal/app/plan"
	"candlepath/internal/app/reading"
	appsitemap "candlepath/internal/app/sitemap"
	"candlepath/internal/markup"
)

// App is the application without its edges.
type App struct {
	*plan.Floor
	*appsitemap.Sitemap
	*appnavigation.Navigation
	*pages.Pages
	*addresses.Addresses
	*editions.Editions
	*account.Account
	*reading.Reading

	store Store
}

// Tx is a transaction that does what every area needs.
type Tx interface {
	plan.Tx
	appsitemap.Tx
	appnavigation.Tx
	pages.Tx
	addresses.Tx
	editions.Tx
	account.Tx
	reading.Tx
}

// Store opens transactions.
type Store = plan.Store[Tx]

// New makes an App.
func New(store Store, m *markup.Markup, objects plan.Objects, now func() time.Time) *App {
	floor := plan.New(plan.Narrow(store, func(tx Tx) plan.Tx { return tx }), m, objects, now)
	a := &App{
		store:      store,
		Floor:      floor,
		Sitemap:    appsitemap.New(floor, plan.Narrow(store, func(tx Tx) appsitemap.Tx { return tx })),
		Navigation: appnavigation.New(floor, plan.Narrow(store, func(tx Tx) appnavigation.Tx { return tx })),
		Pages:      pages.New(floor, plan.Narrow(store, func(tx Tx) pages.Tx { return tx })),
		Addresses:  addresses.New(floor, plan.Narrow(store, func(tx Tx) addresses.Tx { return tx })),
		Editions:   editions.New(floor, plan.Narrow(store, func(tx Tx) editions.Tx { return tx })),
		Reading:    reading.New(floor, plan.Narrow(store, func(tx Tx) reading.Tx { return tx })),
	}
	a.Account = account.New(floor, plan.Narrow(store, func(tx Tx) account.Tx { return tx }), a.firstEdition)
	return a
}

// WithClock gives the application by another clock, with the same store.
func (a *App) WithClock(now func() time.Time) *App { return New(a.store, a.Markup, a.Objects, now) }

// GiveUpJob frees the people of a job that will not be tried again.
func (a *App) GiveUpJob(ctx context.Context, j plan.Job) error {
	switch j.Kind {
	case plan.JobReadFile, plan.JobImportTexts:
		return a.GiveUpImport(ctx, j.ID)
	case plan.JobReadOlder:
		return a.GiveUpOlder(ctx, j.ID)
	case plan.JobExport:
		return a.GiveUpExport(ctx, j.ID)
	case plan.JobPublish:
		return a.GiveUpLarge(ctx, j.ID)
	}
	return nil // it comes back by itself, or nobody waits for it
}

// firstEdition publishes a home page with nothing on it.
func (a *App) firstEdition(ctx context.Context, manager plan.Person) error {
	home, err := a.Plan(ctx, manager, appsitemap.PlanAct{Key: plan.NewID(), Do: "add", Value: "Home"})
	if err != nil {
		return fmt.Errorf("make the home page: %w", err)
	}
	template := appsitemap.PlanAct{Key: plan.NewID(), Do: "fact", ID: home.ID, Field: "template", Value: account.StartingTemplates()[0].Key}
	if _, err := a.Plan(ctx, manager, template); err != nil {
		return fmt.Errorf("make the home page: %w", err)
	}
	if _, err := a.Publish(ctx, manager, editions.PublishAsk{Key: plan.NewID(), Why: "The site begins"}); err != nil {
		return fmt.Errorf("publish the home page: %w", err)
	}
	return nil
}
