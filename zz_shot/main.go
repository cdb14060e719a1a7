package main

import (
	"os"
	"strconv"
	"time"

	"github.com/go-rod/rod"
	"github.com/go-rod/rod/lib/launcher"
	"github.com/go-rod/rod/lib/proto"
)

// zz_shot WAITms URL OUT [URL OUT ...]
func main() {
	u := launcher.New().Bin("/usr/bin/chromium").NoSandbox(true).Set("headless", "new").Set("disable-dev-shm-usage").Set("disable-background-networking").Set("disable-component-update").Set("disable-sync").MustLaunch()
	b := rod.New().ControlURL(u).MustConnect()
	defer b.MustClose()
	ms, _ := strconv.Atoi(os.Args[1])
	for i := 2; i+1 < len(os.Args); i += 2 {
		p := b.MustPage()
		p.MustSetViewport(1280, 800, 1, false)
		p.MustNavigate(os.Args[i]).MustWaitLoad()
		time.Sleep(time.Duration(ms) * time.Millisecond)
		img, _ := p.Screenshot(false, &proto.PageCaptureScreenshot{})
		os.WriteFile(os.Args[i+1], img, 0o644)
		p.MustClose()
	}
}
