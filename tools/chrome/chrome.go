// Package chrome opens Debian's Chromium for the browser tests and the tools that take
// pictures, and keeps what an action returns.
package chrome

import (
	"context"

	"github.com/chromedp/cdproto/cdp"
	"github.com/chromedp/cdproto/emulation"
	"github.com/chromedp/cdproto/page"
	"github.com/chromedp/chromedp"
)

// Action is one step in the browser that leaves no value of its own.
type Action = chromedp.Action[chromedp.Void]

// Open starts a headless Chromium whose first tab is width by height pixels. The browser
// lives until the function that is returned is called.
func Open(ctx context.Context, width, height int) (context.Context, func()) {
	opts := append(chromedp.DefaultExecAllocatorOptions[:], chromedp.NoSandbox, chromedp.DisableGPU,
		chromedp.Flag("disable-quic", true), chromedp.Flag("hide-scrollbars", true), chromedp.WindowSize(width, height))
	actx, stop := chromedp.NewExecAllocator(ctx, opts...)
	bctx, cancel := chromedp.NewContext(actx)
	return bctx, func() { cancel(); stop() }
}

// Into does the action and keeps in x what it returns.
func Into[T any](a chromedp.Action[T], x *T) Action {
	return func(ctx context.Context, t *chromedp.Target) (chromedp.Void, error) {
		v, err := a(ctx, t)
		if err == nil {
			*x = v
		}
		return chromedp.Void{}, err
	}
}

// Value keeps in x what the JavaScript expression comes to.
func Value[T any](js string, x *T, opts ...chromedp.EvaluateOption) Action {
	return Into(chromedp.Evaluate[T](js, opts...), x)
}

// Script runs JavaScript for what it does.
func Script(js string, opts ...chromedp.EvaluateOption) Action {
	return chromedp.Evaluate[chromedp.Void](js, opts...)
}

// Click presses the first element the selector names.
func Click(sel string) Action { return chromedp.Click(chromedp.CSS(sel)) }

// First runs JavaScript on every page from now on before its own scripts.
func First(js string) Action {
	return chromedp.Func(func(ctx context.Context, t *chromedp.Target) error {
		_, err := cdp.Call(
			ctx,
			t,
			page.AddScriptToEvaluateOnNewDocument,
			page.AddScriptToEvaluateOnNewDocumentParams{Source: js},
		)
		return err
	})
}

// Front brings the tab before the others: what is hidden draws nothing.
func Front() Action {
	return chromedp.Func(func(ctx context.Context, t *chromedp.Target) error {
		_, err := cdp.Call(ctx, t, page.BringToFront, cdp.Empty{})
		return err
	})
}

// Media makes the page believe that a media feature, such as prefers-color-scheme, has the
// value; without a name nothing is pretended any more.
func Media(name, value string) Action {
	return chromedp.Func(func(ctx context.Context, t *chromedp.Target) error {
		var p emulation.SetEmulatedMediaParams
		if name != "" {
			p.Features = []*emulation.MediaFeature{{Name: name, Value: value}}
		}
		_, err := cdp.Call(ctx, t, emulation.SetEmulatedMedia, p)
		return err
	})
}
