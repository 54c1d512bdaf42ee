# make          builds bin/roundyear
# make demo     writes sample data to build/fernhollow and runs every main command on it
# make test     runs all tests, with the race detector where work is done in parallel, and names those that are skipped
# make race     runs the tests of the commands with the race detector in every run of the program (most of an hour)
# make kills    kills 210 runs at random moments and checks what they leave behind
# make windows  a part of the tests of the commands and the examples of the docs with the program for Windows, under Wine
# make lint     gofmt, go vet and staticcheck
# make fuzz     each fuzz test for FUZZTIME, and MUTATIONS mutated inputs for the commands
# make bench    Go benchmarks, and whole runs as ratios to a bare program (needs time)
# make docs     regenerates the reference pages and the output of the examples
# make man      manual pages in build/man
# make release  archives for Linux, macOS and Windows, .deb and .rpm in build/release, with checksums
# make shots    the screenshots in docs/screenshots (needs xvfb xterm imagemagick fonts-dejavu-core)

SHELL := /bin/bash
.SHELLFLAGS := -o pipefail -c

STATICCHECK := honnef.co/go/tools/cmd/staticcheck@v0.7.0
FUZZTIME ?= 1m
MUTATIONS ?= 100000
MUTATION_SEED ?= $(shell date +%s)
SOURCES := $(shell find . -name '*.go' -not -name '*_test.go') $(wildcard */*.tsv.gz) go.mod go.sum

.PHONY: all demo test race kills windows inside lint fuzz bench docs man release shots clean

all: bin/roundyear

bin/roundyear: $(SOURCES)
	CGO_ENABLED=0 go build -buildvcs=auto -trimpath -ldflags '-s -w' -o $@ ./cmd/roundyear

demo: bin/roundyear
	bin/roundyear demo build/fernhollow

# SEQUENTIAL are packages in which nothing runs side by side or is kept for all, so
# that the race detector would find nothing and only slow their long tests down.
SEQUENTIAL := $(addprefix roundyear/,astronomy calendar cell check civil dimension facts facts/decimal facts/where fault internal/compress survey)

test:
	@bash scripts/packages.sh servers || true
	{ go test -timeout 30m -json $(SEQUENTIAL); \
	CGO_ENABLED=1 go test -race -timeout 60m -json $(filter-out $(SEQUENTIAL),$(shell go list ./...)); } | go run ./scripts/testreport

race:
	DRIVE=raced go test ./internal/cli -timeout 180m

kills:
	DRIVE=plain go test ./internal/cli -run Killed -v -timeout 60m -kills 210

# WINDOWS are tests of the commands that drive the program for Windows under Wine as well.
WINDOWS := NoCommandWritesOverAnInput PartitionsReplaceOnlyWhatPartitionsWrote PartitionsOfEarlierRunsStay RowsGoToPartitions \
    PartitionsHaveSafeNames PartitionsAsParquet WriteProtectedOutputsAreReplacedOnlyWhenAsked RejectsOfAnEarlierRunDoNotStay \
    RejectsCanBeMendedAndReadInAgain NothingIsWrittenWhereRejectsHaveNoPlace BuildWritesSeveralFormatsAtOnce ResultsAreCompressedByEnding \
    NoOutputIsLost Databases SmallDatabase ADatabaseInUseIsNotReplaced AWorkbookOfSomebodyElseStays MembersOfArchives OutputsAreDescribed \
    FilesThatCannotBePublishedTo AQueryCannotDoAnythingElse WhatIsNotLoaded CheckProvesATable TotalsAgainstOtherPeriods \
    TotalsOfManyChunksAreThoseOfTheRows NormaliseOfManyChunksWritesEachRowOnce ZonesBusinessDaysAndAddedAttributes Lapse Census Allocate \
    FillByShop LatestByGroups Explain Completion DaysOffOfRegions APlanOfDatesThatAreNotSettled PlanCheckLooksAtFiles VersionNamesTheCommit ARequestInThePlanIsTheSameRun

windows:
	@DRIVE=wine go test ./docs ./internal/cli -timeout 20m -run "^Test($$(echo Examples.* $(WINDOWS) | tr ' ' '|'))$$"

# inside tries many more calls inside databases, of SEED, than the tests do.
SEED ?= 1
inside:
	DRIVE=plain go test ./internal/cli -run AsLocal -v -timeout 120m -inside 500 -normalise-inside 150 -lapse-inside 150 -inside-seed $(SEED)

lint:
	@unformatted=$$(gofmt -l .); if [ -n "$$unformatted" ]; then echo "gofmt these: $$unformatted"; exit 1; fi
	go vet ./...
	go run $(STATICCHECK) ./...
	GOOS=darwin CGO_ENABLED=0 go vet ./...
	GOOS=darwin GOARCH=arm64 CGO_ENABLED=0 go build -o /dev/null ./cmd/roundyear

fuzz:
	go test ./civil -run '^$$' -fuzz FuzzParse -fuzztime $(FUZZTIME) -fuzzminimizetime 1x
	go test ./datetext -run '^$$' -fuzz FuzzRead -fuzztime $(FUZZTIME) -fuzzminimizetime 1x
	go test ./facts/decimal -run '^$$' -fuzz FuzzAdd -fuzztime $(FUZZTIME) -fuzzminimizetime 1x
	go test ./facts/where -run '^$$' -fuzz FuzzParse -fuzztime $(FUZZTIME) -fuzzminimizetime 1x
	go test ./facts/formula -run '^$$' -fuzz FuzzFormula -fuzztime $(FUZZTIME) -fuzzminimizetime 1x
	go test ./internal/table -run '^$$' -fuzz FuzzRecords -fuzztime $(FUZZTIME) -fuzzminimizetime 1x
	go test ./internal/jsonlines -run '^$$' -fuzz FuzzObjects -fuzztime $(FUZZTIME) -fuzzminimizetime 1x
	go test ./internal/delimited -run '^$$' -fuzz FuzzLayouts -fuzztime $(FUZZTIME) -fuzzminimizetime 1x
	go test ./internal/workbook -run '^$$' -fuzz FuzzSheet -fuzztime $(FUZZTIME) -fuzzminimizetime 1x
	go test ./yearplan -run '^$$' -fuzz FuzzRead -fuzztime $(FUZZTIME) -fuzzminimizetime 1x
	go test ./language -run '^$$' -fuzz FuzzPattern -fuzztime $(FUZZTIME) -fuzzminimizetime 1x
	go test ./internal/daylist -run '^$$' -fuzz FuzzReadICalendar -fuzztime $(FUZZTIME) -fuzzminimizetime 1x
	go test ./internal/terminal -run '^$$' -fuzz FuzzClean -fuzztime $(FUZZTIME) -fuzzminimizetime 1x
	go test ./numbertext -run '^$$' -fuzz FuzzAppendPlain -fuzztime $(FUZZTIME) -fuzzminimizetime 1x
	go test ./charset -run '^$$' -fuzz FuzzLikely -fuzztime $(FUZZTIME) -fuzzminimizetime 1x
	go test ./internal/daylist -run '^$$' -fuzz FuzzTables -fuzztime $(FUZZTIME) -fuzzminimizetime 1x
	DRIVE=plain go test ./internal/cli -run 'TestMutatedInputs|TestRandom' -v -timeout 90m -mutations $(MUTATIONS) -mutation-seed $(MUTATION_SEED)

bench: bin/roundyear
	go test -run '^$$' -bench . ./...
	scripts/bench.sh
	scripts/benchdb.sh

docs: bin/roundyear
	go generate ./docs
	go test ./docs -run TestExamplesSayTheTruth -update

man:
	rm -rf build/man
	go run ./scripts/man build/man/man1
	@echo "To read one: man -l build/man/man1/roundyear.1"

VERSION ?= $(shell git describe --tags --always --dirty)

release:
	rm -rf build/release
	go build -C scripts/release -o ../../build/packer .
	build/packer '$(VERSION)' "$$(git log -1 --format=%ct)" build/release

shots: bin/roundyear
	scripts/shots.sh docs/screenshots

clean:
	rm -rf bin build
