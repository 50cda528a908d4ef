package e2e

import (
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/require"
)

// A folder is read by the service from its page, what is in it is listed and searched, and recorded.
func TestAFolderIsReadFromItsPage(t *testing.T) {
	base := startDemo(t)
	petri := newScreen(t, base, desk)
	petri.logIn("petri")
	petri.open("/households/H-0001/forecast")
	petri.tap("Films")
	petri.sees("This folder has not been read yet.")
	petri.audit("a folder that has not been read")
	petri.tap("Read the folder")
	petri.sees("3 items that can be read")
	petri.sees("A Winter of Oil Lamps.mp4")
	petri.sees("Record this mix")
	petri.audit("what is in a folder")
	petri.fill("Name or format", "fog")
	petri.do(chromedp.KeyEvent("\r"))
	petri.sees("1 file")
	petri.seesNot("A Winter of Oil Lamps.mp4")
	petri.tap("Show all")
	petri.sees("A Winter of Oil Lamps.mp4")
	page, err := chromedp.Run(petri.ctx, chromedp.Evaluate[string]("location.pathname"))
	require.NoError(t, err)
	petri.tap("Record this mix")
	petri.sees("The folder's record has this mix and this number of items.")

	petri.sees("The server was not asked for its list with this reading.")

	petri.fill("Where the files are", "nfs://127.77.1.11/kelp/Films")
	petri.tap("Read the folder")
	petri.sees("3 items on the disk that can be read, 3 titles on the list of the server; 2 are the same.")
	petri.sees("oil-lamps.mp4")
	petri.audit("the files and the list of the server")
	petri.picture("folder-desk")
	petri.tap("Record this comparison")
	petri.sees("The folder's record has this comparison.")

	tilit := newScreen(t, base, phone)
	tilit.logIn("tilit")
	tilit.open(page)
	tilit.sees("3 items that can be read")
	tilit.seesNot("Read the folder")
	tilit.sees("The folder's record has this comparison.")
	tilit.picture("folder-phone")
	tilit.audit("what is in a folder, on the phone")
}
