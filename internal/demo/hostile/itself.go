package hostile

import (
	"encoding/base64"
	"io"
)

// itself is an archive that holds itself: R. Cox, "Zip files all the way down" (2010), as it stands in
// the tests of Go's archive/zip.
func itself(w io.Writer) error {
	b, err := base64.StdEncoding.DecodeString(itsText)
	if err == nil {
		_, err = w.Write(b)
	}
	return err
}

const itsText = "" +
	"UEsDBBQAAAAIAAgDZDz59IlkSAEAALgBAAAHAAAAci9yLnppcAAlANr/UEsDBBQAAAAIAAgDZDz59IlkSAEAALgBAAAHAAAAci9yLnppcAAvAN" +
	"D/ACUA2v9QSwMEFAAAAAgACANkPPn0iWRIAQAAuAEAAAcAAAByL3IuemlwAC8A0P/CVI5XOQAFAPr/wlSOVzkABQD6/wAFAPr/ABQA6//CVI5X" +
	"OQAFAPr/AAUA+v8AFADr/0KIIcQAABQA6/9CiCHEAAAUAOv/QoghxAAAFADr/0KIIcQAABQA6/9CiCHEAAAAAP//AAAA//8ANADL/0KIIcQAAA" +
	"AA//8AAAD//wA0AMv/QughXg8AAAD//wrwZmQSYcAV3OigSL9IryqzIMCblQ3EZwRCUwYGBkAABgD5/20BAAAAAELoIV4PAAAA//8K8GZkEmHA" +
	"FdzooEi/SK8qsyDAm5UNxGcEQlMGBgZAAAYA+f9tAQAAAABQSwECFAAUAAAACAAIA2Q8+fSJZEgBAAC4AQAABwAAAAAAAAAAAAAAAAAAAAAAci" +
	"9yLnppcFBLBQYAAAAAAQABADUAAABtAQAAAAA="
