package content

// The kinds of block.
const (
	Text      BlockType = "text"
	Note      BlockType = "note"
	Tiles     BlockType = "tiles"
	Picture   BlockType = "picture"
	Pictures  BlockType = "pictures"
	Steps     BlockType = "steps"
	Questions BlockType = "questions"
	Quotation BlockType = "quotation"
	Columns   BlockType = "columns"
	FactRow   BlockType = "facts"
	Files     BlockType = "files"
	Table     BlockType = "table"
	Contact   BlockType = "contact"
	Below     BlockType = "below"
	TopicList BlockType = "topic"
	Newest    BlockType = "newest"
	NewsList  BlockType = "news"
	Asked     BlockType = "asked"
	Recent    BlockType = "recent"
	Strip     BlockType = "strip"
	Divider   BlockType = "divider"
	Source    BlockType = "source"
)

// Tones are those of a notice.
func Tones() []string { return []string{"plain", "tip", "warning", "danger"} }

// Where the pages of a computed board or list are taken from, and in which order.
const (
	FromBelow  = "pages below a page"
	FromTopic  = "pages of a topic"
	FromNewest = "newest pages"
	FromNews   = "news"
	FromAsked  = "most asked for"
	FromRecent = "what the reader opened last"
	OwnTiles   = "tiles chosen here"

	BySitemap = "as in the sitemap"
	ByTitle   = "by title"
	ByChange  = "newest first"
)

const (
	mostColumns = 3
	mostListed  = 50 // pages in a list
)

var (
	ownProse = Field{Key: ownText, Label: "Text", Type: FieldProse, Required: true}
	count    = Field{Key: "count", Label: "How many", Type: FieldNumber, Usual: "5", Min: 1, Max: mostListed}
	within   = Field{Key: "of", Label: "Below which page", Type: FieldPage, Help: "Nothing chosen: this page, in lists of what is below; else the whole site."}
	order    = Field{Key: "order", Label: "Order", Type: FieldChoice, Choices: []string{BySitemap, ByTitle, ByChange}, Usual: BySitemap}
	summary  = Field{Key: "summaries", Label: "With summaries", Type: FieldYes}
	figures  = Field{Key: "figures", Label: "With when, or how often", Type: FieldYes, Help: "The day of the change, or the visits of the last weeks."}
	ofTopic  = Field{Key: "topic", Label: "Topic", Type: FieldTopic, Required: true}
	onTopic  = Field{Key: "topic", Label: "Only of a topic", Type: FieldTopic}

	picture    = Field{Key: "picture", Label: "Picture", Type: FieldPicture, Required: true}
	decorative = Field{Key: "decorative", Label: "Only decoration; screen readers skip it", Type: FieldYes, If: "picture"}
	shows      = Field{Key: "alt", Label: "What it shows, for those who cannot see it", Type: FieldText, If: "picture&!decorative"}
	caption    = Field{Key: "caption", Label: "Caption", Type: FieldText}
	focus      = Field{Key: "focus", Label: "What must stay in sight", Type: FieldSpot, If: "picture", Choices: []string{
		"top left", "top", "top right", "left", "middle", "right", "bottom left", "bottom", "bottom right",
	}, Usual: "middle", Help: "Where the picture is cut to fit, this part stays."}
)

var (
	textKind = blockKind{is: Text, name: "Text", about: "paragraphs, headings, lists, tables", cuts: true, fields: []Field{ownProse}}

	noteKind = blockKind{is: Note, name: "Notice", about: "a box that is noticed", fields: []Field{
		ownProse,
		{Key: "tone", Label: "Tone", Type: FieldChoice, Choices: Tones(), Usual: "plain"},
	}}

	quotationKind = blockKind{is: Quotation, name: "Quotation", about: "somebody’s words, with who said them", fields: []Field{
		ownProse,
		{Key: "who", Label: "Who said it, or where it stands", Type: FieldText},
		{Key: "to", Label: "Link to the source", Type: FieldLink},
	}}

	sourceKind = blockKind{is: Source, name: "Source text", about: "CommonMark as you type it", fields: []Field{ownProse}}

	stepsKind = blockKind{is: Steps, name: "Steps", about: "a procedure, step by step, with pictures", item: "step", items: []Field{
		{Key: "text", Label: "What to do", Type: FieldProse},
		{Key: "picture", Label: "Picture", Type: FieldPicture},
		decorative, shows,
	}}

	questionsKind = blockKind{is: Questions, name: "Questions", about: "answers that unfold", item: "question", items: []Field{
		{Key: "title", Label: "Question", Type: FieldText, Required: true},
		{Key: "text", Label: "Answer", Type: FieldProse},
	}}

	columnsKind = blockKind{is: Columns, name: "Columns", about: "two or three side by side", columns: true}
	dividerKind = blockKind{is: Divider, name: "Divider", about: "a line between parts"}

	pictureKind = blockKind{is: Picture, name: "Picture", about: "one picture, with a caption", fields: []Field{
		picture, decorative, shows, caption,
		{Key: "width", Label: "Width", Type: FieldChoice, Choices: []string{"text", "wide", "beside text"}, Usual: "text"},
		focus,
	}}

	picturesKind = blockKind{is: Pictures, name: "Pictures in a row", about: "two to six, of one height", item: "picture", items: []Field{
		picture, decorative, shows, caption, focus,
	}}

	filesKind = blockKind{is: Files, name: "Files", about: "downloads, with kind and size", item: "file", items: []Field{
		{Key: "file", Label: "File", Type: FieldFile, Required: true},
		{Key: "title", Label: "Title", Type: FieldText},
		{Key: "line", Label: "Line of text", Type: FieldText},
	}}

	tableKind = blockKind{is: Table, name: "Table from a file", about: "a .csv or .xlsx file, shown as a table", fields: []Field{
		{Key: ownText, Label: "Rows", Type: FieldProse},
		{Key: "file", Label: "File", Type: FieldFile, Required: true},
		caption,
	}}

	factsKind = blockKind{is: FactRow, name: "Facts in a row", about: "figures and dates, large", lists: true, item: "fact", items: []Field{
		{Key: "label", Label: "Label", Type: FieldText},
		{Key: "value", Label: "Value", Type: FieldText, Help: "Leave it empty to follow a fact of a page."},
		{Key: "line", Label: "Line of text", Type: FieldText},
		{Key: "of", Label: "Follows a fact of", Type: FieldPage},
		{Key: "fact", Label: "Which fact", Type: FieldText, If: "of", Help: "Its label on that page, such as Risk."},
	}}

	contactKind = blockKind{is: Contact, name: "Contact", about: "whom to ask", fields: []Field{
		{Key: "person", Label: "Person", Type: FieldPerson, Required: true},
		{Key: "group", Label: "Or a group", Type: FieldGroup, Required: true},
		{Key: "line", Label: "Line of text", Type: FieldText, Help: "When to ask, a telephone number, a room."},
	}}

	belowKind = blockKind{is: Below, name: "Child list", about: "the pages below this one", lists: true, fields: []Field{
		within, {Key: "depth", Label: "Levels", Type: FieldNumber, Usual: "1", Min: 1, Max: 3}, order, summary,
	}}
	topicKind = blockKind{is: TopicList, name: "Topic list", about: "all pages of a topic", lists: true, fields: []Field{
		ofTopic, order, {Key: "count", Label: "How many at most", Type: FieldNumber, Usual: "20", Min: 1, Max: mostListed}, summary,
	}}
	newestKind = blockKind{is: Newest, name: "Newest pages", about: "new and changed of late", lists: true, fields: []Field{count, within, summary, figures}}
	newsKind   = blockKind{is: NewsList, name: "News", about: "pages that are announced, the latest first", lists: true, fields: []Field{count, onTopic, summary, figures}}
	askedKind  = blockKind{is: Asked, name: "Most asked for", about: "the pages with most visits", lists: true, fields: []Field{count, within, summary, figures}}
	recentKind = blockKind{is: Recent, name: "Where you left off", about: "what this reader opened last", lists: true, fields: []Field{count}}

	stripKind = blockKind{is: Strip, name: "Menu strip", about: "a small menu inside the page", lists: true, item: "item", items: []Field{
		{Key: "to", Label: "Leads to", Type: FieldLink, Required: true},
		{Key: "title", Label: "Label", Type: FieldText},
	}}

	tilesKind = blockKind{
		is: Tiles, name: "Tile board", about: "links drawn as cards", lists: true,
		fields: []Field{
			{Key: "from", Label: "Shows", Type: FieldChoice, Choices: []string{OwnTiles, FromBelow, FromTopic, FromNewest, FromAsked, FromRecent}, Usual: OwnTiles},
			{Key: "of", Label: "Below which page", Type: FieldPage, If: "from=" + FromBelow, Help: "Nothing chosen: this page."},
			{Key: "topic", Label: "Topic", Type: FieldTopic, If: "from=" + FromTopic, Required: true},
			{Key: "count", Label: "How many at most", Type: FieldNumber, Usual: "6", Min: 1, Max: mostListed, If: "!from=" + OwnTiles},
			{Key: "columns", Label: "Columns", Type: FieldChoice, Choices: []string{"2", "3", "4"}, Usual: "3"},
		},
		item: "tile",
		items: []Field{
			{Key: "to", Label: "Leads to", Type: FieldLink, Required: true},
			{Key: "title", Label: "Title", Type: FieldText, Help: "Nothing written: the title of the page."},
			{Key: "line", Label: "Line of text", Type: FieldText, Help: "Nothing written: the summary of the page."},
			{Key: "symbol", Label: "Symbol", Type: FieldSymbol},
			{Key: "picture", Label: "Picture instead of a symbol", Type: FieldPicture},
		},
	}
)
