package app

import (
	"runtime"
	"sync"
)

// inParallel does n things on all processors, and waits for them.
func inParallel(n int, do func(i int)) {
	workers := max(1, min(runtime.GOMAXPROCS(0), n/32))
	var working sync.WaitGroup
	for w := range workers {
		working.Go(func() {
			for i := w; i < n; i += workers {
				do(i)
			}
		})
	}
	working.Wait()
}
