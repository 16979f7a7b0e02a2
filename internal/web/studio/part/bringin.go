package part

type CountView struct {
	Name, Words, URL string
	N                string
	Here             bool
}
