package cli

import (
	"errors"
	"maps"
	"os"
	"path/filepath"
	"slices"
	"strconv"
	"strings"

	"github.com/spf13/cobra"
	"github.com/spf13/pflag"

	"roundyear/fault"
	"roundyear/internal/database"
	"roundyear/internal/request"
	"roundyear/yearplan"
)

// noRequests are commands that are no requests: what they do is about plans, or for people.
var noRequests = []string{"demo", "plan", "completion", "help", "run", "no-help"}

// notOfRequests are flags that say how a run is carried out and reported, and not what is asked for.
var notOfRequests = []string{"help", "version", "plan", "no-plan", "quiet", "color", showsRequest}

// showsRequest is the flag that shows a request.
const showsRequest = "show-request"

// pathSettings are the settings that begin with a path.
var pathSettings = []string{"out", "rejects", "budget", "cover", "like", "lives"}

// isRequest tells whether a command has requests.
func isRequest(command *cobra.Command) bool {
	return command.Runnable() && !slices.Contains(noRequests, command.Name()) && command.Parent() != nil && !command.Parent().HasParent()
}

// addRequests lets all commands with requests show what they would do.
func (a *App) addRequests(root *cobra.Command) {
	for _, command := range root.Commands() {
		if !isRequest(command) {
			continue
		}
		shows := command.Flags().Bool(showsRequest, false, "print what would be done as YAML, for results of the plan, and do nothing")
		run := command.RunE
		command.RunE = func(command *cobra.Command, args []string) error {
			if *shows {
				return a.showRequest(command, args)
			}
			return run(command, args)
		}
	}
}

// settingsOf returns the settings that a command has.
func settingsOf(command *cobra.Command) []request.Known {
	var known []request.Known
	add := func(flag *pflag.Flag) {
		if slices.Contains(notOfRequests, flag.Name) {
			return
		}
		one := request.Known{Name: flag.Name}
		switch flag.Value.Type() {
		case "int":
			one.Kind = request.Number
		case "bool":
			one.Kind = request.Truth
		case "stringSlice":
			one.Kind = request.List
		case "stringArray":
			one.Kind = request.Texts
		}
		if _, isList := flag.Value.(pflag.SliceValue); !isList && flag.DefValue != "false" && flag.DefValue != "0" {
			one.Default = flag.DefValue
		}
		known = append(known, one)
	}
	command.InheritedFlags() // merges those of the commands above
	command.Flags().VisitAll(add)
	return known
}

// requestOf is what a call asks for.
func requestOf(command *cobra.Command, args []string) request.Request {
	r := request.Request{Command: command.Name(), Inputs: args}
	for _, known := range settingsOf(command) {
		flag := command.Flags().Lookup(known.Name)
		if !flag.Changed {
			continue
		}
		setting := request.Setting{Known: known, Values: []string{flag.Value.String()}}
		if list, ok := flag.Value.(pflag.SliceValue); ok {
			setting.Values = list.GetSlice()
		}
		r.Settings = append(r.Settings, setting)
	}
	return r
}

// showRequest prints what a call asks for, as a result of the plan.
func (a *App) showRequest(command *cobra.Command, args []string) error {
	r := requestOf(command, args)
	var planned []request.Setting
	plan, err := a.readPlan()
	if err != nil {
		return err
	}
	if plan.File != "" {
		if r, err = fromPlan(r, plan); err != nil {
			return err
		}
		planned = plannedSettings(r, plan, settingsOf(command))
	}
	text, err := r.YAML(r.Command, settingsOf(command), planned)
	if err != nil {
		return err
	}
	file, err := a.create("-")
	if err != nil {
		return err
	}
	if _, err := file.Write(text); err != nil {
		return err
	}
	return a.files.Commit()
}

// fromPlan is a request whose paths begin at the plan's folder.
func fromPlan(r request.Request, plan *yearplan.Plan) (request.Request, error) {
	folder, err := filepath.Abs(filepath.Dir(plan.File))
	if err != nil {
		return r, err
	}
	here, err := os.Getwd()
	if err != nil {
		return r, err
	}
	way, err := filepath.Rel(folder, here)
	if err != nil || way == "." {
		return r, err
	}
	moved := func(path string) string {
		isFile := !database.IsAddress(path) && path != "-" && path != "" && !filepath.IsAbs(path) && filepath.VolumeName(path) == ""
		if !isFile || !isThere(path) && plan.FactsNamed(path) != nil {
			return path
		}
		file, inside, _ := strings.Cut(path, "#")
		file = filepath.ToSlash(filepath.Join(way, file))
		if inside != "" {
			file += "#" + inside
		}
		return file
	}
	r.Inputs, r.Settings = slices.Clone(r.Inputs), slices.Clone(r.Settings)
	for i, input := range r.Inputs {
		if column, _, isPick := strings.Cut(input, "="); isPick && !isThere(input) && !strings.ContainsAny(column, `/\*?`) {
			continue // a group that totals --explain is about
		}
		r.Inputs[i] = moved(input)
	}
	for i, setting := range r.Settings {
		if !slices.Contains(pathSettings, setting.Name) {
			continue
		}
		r.Settings[i].Values = slices.Clone(setting.Values)
		for j, value := range setting.Values {
			r.Settings[i].Values[j] = moved(value)
		}
	}
	return r, nil
}

// plannedSettings are settings that the plan says of the facts that a request reads.
func plannedSettings(r request.Request, plan *yearplan.Plan, known []request.Known) []request.Setting {
	var facts *yearplan.Facts
	if len(r.Inputs) == 1 {
		facts = plan.FactsNamed(r.Inputs[0])
	}
	if facts == nil {
		return nil
	}
	said := map[string][]string{
		"encoding": one(facts.Encoding), "delimiter": one(facts.Delimiter), "quote": one(facts.Quote), "comment": one(facts.Comment), "minus": one(facts.Minus),
		"widths": facts.Widths, "ragged": facts.Ragged, "blank-as": facts.BlankAs, "rename": facts.Renames, "let": facts.Lets, "keep": facts.Keep,
		"distinct": facts.Distinct, "sort": facts.Sort, "number": facts.Numbers, "text": facts.Texts, "placeholder": facts.Placeholders,
		"loaded-through": facts.LoadedThrough, "order-per": one(facts.OrderPer),
	}
	if facts.Skip > 0 {
		said["skip"] = one(strconv.Itoa(facts.Skip))
	}
	if facts.Header != nil && *facts.Header {
		said["header"] = one("true")
	} else if facts.Header != nil {
		said["no-header"] = one("true")
	}
	for _, column := range slices.Sorted(maps.Keys(facts.Decimals)) {
		said["decimal"] = append(said["decimal"], column+"="+facts.Decimals[column])
	}
	if len(facts.Dates) == 1 {
		dates := facts.Dates[0]
		for name, text := range map[string]string{"order": dates.Order, "language": dates.Language, "zone": dates.Zone, "to-zone": dates.ToZone, "day-starts": dates.DayStarts} {
			said[name] = one(text)
		}
		if dates.Pattern != "" {
			said["pattern"] = one(dates.Column + "=" + dates.Pattern)
		}
	}
	if facts.Out != "" && r.Command != "normalise" && r.Command != "survey" { // what normalise has written has its shape already
		delete(said, "rename")
		delete(said, "let")
	}
	var planned []request.Setting
	for _, setting := range known {
		if values := said[setting.Name]; len(values) > 0 {
			planned = append(planned, request.Setting{Known: setting, Values: values})
		}
	}
	return planned
}

// one is a list of a text, or nothing.
func one(text string) []string {
	if text == "" {
		return nil
	}
	return []string{text}
}

// requestCommands are the commands that have requests, with their settings.
func requestCommands() map[string][]request.Known {
	commands := map[string][]request.Known{}
	for _, command := range Commands().Commands() {
		if isRequest(command) {
			commands[command.Name()] = settingsOf(command)
		}
	}
	return commands
}

// resultFaults are the faults of a plan's results, which it cannot find itself.
func resultFaults(plan *yearplan.Plan) (faults fault.List) {
	if len(plan.Results) == 0 {
		return nil
	}
	commands := requestCommands()
	for _, result := range plan.Results {
		var found fault.List
		if _, err := request.Of(plan.File, result, commands); errors.As(err, &found) {
			faults = append(faults, found...)
		}
	}
	return faults.Sorted()
}
