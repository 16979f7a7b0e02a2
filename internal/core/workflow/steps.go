package workflow

import "slices"

// State is where a change stands.
type State string

// The states.
const (
	Draft     State = "draft"
	InReview  State = "in review"
	Ready     State = "ready"
	Scheduled State = "scheduled"
	Live      State = "live"
)

// States lists them in the order of the way.
func States() []State { return []State{Draft, InReview, Ready, Scheduled, Live} }

// ApprovalPolicy is what a site, or a branch of it, asks of a change before it goes out.
type ApprovalPolicy string

// What can be asked.
const (
	NoApproval ApprovalPolicy = ""
	Approval   ApprovalPolicy = "approval"
	FourEyes   ApprovalPolicy = "four eyes" // approval by somebody who did not make it
)

// ApprovalPolicies lists them.
func ApprovalPolicies() []ApprovalPolicy { return []ApprovalPolicy{NoApproval, Approval, FourEyes} }

// Step takes a change from one state to the next.
type Step string

// The steps.
const (
	Send          Step = "send"
	Recall        Step = "recall"
	Approve       Step = "approve"
	SendBack      Step = "send back"
	Edit          Step = "edit"
	Schedule      Step = "schedule"
	ScheduleDraft Step = "schedule a draft" // where no review is asked
	Unschedule    Step = "unschedule"
	GoOut         Step = "publish on schedule" // its minute has come
	FallBack      Step = "return to approved"  // its minute has come, and preflight stops it
	Release       Step = "publish"
	ReleaseNow    Step = "publish now" // without a review
)

// Actor is who takes a step, with regard to one change.
type Actor struct {
	Role    Role
	Made    bool           // made or edited the change
	Others  bool           // somebody else approved it as it is
	Sent    bool           // sent it to review
	Program bool           // nobody: the program itself does what was planned
	Policy  ApprovalPolicy // what is asked of the change
}

// Refusal is why a step is not taken, as a sentence; empty: it is.
type Refusal string

// The refusals.
const (
	NotFromHere Refusal = "This is not possible in the change's current state. Reload and check it again."
	MayNotPlan  Refusal = "You do not have permission to change this."
	MayNotRule  Refusal = "Only people who can publish here can do this."
	OwnHand     Refusal = "You made part of this, so someone else must approve it."
	OwnDate     Refusal = "This includes your own work, so someone else must approve or schedule it."
	NotSender   Refusal = "Only the person who sent it can recall it."
	NeedsReview Refusal = "This needs approval first. Send it for review."
	OnlyProgram Refusal = "This happens automatically at the scheduled time."
)

type stepRow struct {
	step Step
	from []State
	to   State
	may  func(Site, Actor) Refusal
}

// steps is the table of steps.
func steps() []stepRow {
	plans := func(s Site, h Actor) Refusal { return unless(s.May(h.Role, Plan), MayNotPlan) }
	agrees := func(s Site, h Actor) Refusal { return unless(s.May(h.Role, Publish), MayNotRule) }
	brings := func(s Site, h Actor) Refusal { // who gives a date counts as who publishes
		if r := agrees(s, h); r != "" {
			return r
		}
		return unless(!h.Made || h.Others || s.OwnWork || h.Role == Manager, OwnDate)
	}
	program := func(_ Site, h Actor) Refusal { return unless(h.Program, OnlyProgram) }
	return []stepRow{
		{Send, []State{Draft}, InReview, plans},
		{Recall, []State{InReview}, Draft, func(_ Site, h Actor) Refusal { return unless(h.Sent, NotSender) }},
		{Approve, []State{InReview}, Ready, func(s Site, h Actor) Refusal {
			if r := agrees(s, h); r != "" {
				return r
			}
			return unless(!h.Made || h.Policy != FourEyes, OwnHand)
		}},
		{SendBack, []State{InReview}, Draft, agrees},
		{Edit, []State{Draft, InReview, Ready, Scheduled}, Draft, plans},
		{Schedule, []State{Ready}, Scheduled, brings},
		{ScheduleDraft, []State{Draft}, Scheduled, func(s Site, h Actor) Refusal {
			if r := brings(s, h); r != "" {
				return r
			}
			return unless(h.Policy == NoApproval, NeedsReview)
		}},
		{Unschedule, []State{Scheduled}, Ready, agrees},
		{GoOut, []State{Scheduled}, Live, program},
		{FallBack, []State{Scheduled}, Ready, program},
		{Release, []State{Ready}, Live, agrees},
		{ReleaseNow, []State{Draft, InReview}, Live, func(s Site, h Actor) Refusal {
			if r := agrees(s, h); r != "" {
				return r
			}
			return unless(h.Policy == NoApproval, NeedsReview)
		}},
	}
}

func unless(ok bool, r Refusal) Refusal {
	if ok {
		return ""
	}
	return r
}

// Steps lists the steps.
func Steps() (out []Step) {
	for _, row := range steps() {
		out = append(out, row.step)
	}
	return out
}

// Take takes a step from a state. Where it is refused the state stays.
func (s Site) Take(from State, step Step, by Actor) (State, Refusal) {
	for _, row := range steps() {
		if row.step != step {
			continue
		}
		if !slices.Contains(row.from, from) {
			return from, NotFromHere
		}
		if r := row.may(s, by); r != "" {
			return from, r
		}
		return row.to, ""
	}
	return from, NotFromHere
}

// ApprovalState is where a change was put, and for which wording of it.
type ApprovalState struct {
	State  State
	Stamp  string // of the change as it was then
	Person string // who put it there
	Review string // the request by which it was sent
	Word   string // said when it was sent back
}

// Now gives where a change stands that has a stamp now. One that was edited since is a draft
// again.
func (s ApprovalState) Now(stamp string) State {
	if s.State == "" || s.Stamp != stamp {
		return Draft
	}
	return s.State
}

// Outdated tells whether what was sent or approved was another wording than what stands now.
func (s ApprovalState) Outdated(stamp string) bool {
	return s.State != "" && s.State != Draft && s.Stamp != stamp
}
