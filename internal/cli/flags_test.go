package cli

import (
	"strings"
	"testing"

	"github.com/spf13/cobra"
	"github.com/spf13/pflag"
	"github.com/stretchr/testify/assert"
)

// Every flag is listed once, in a group that there is, and says its value in capitals.
func TestEveryFlagIsInAGroup(t *testing.T) {
	var each func(cmd *cobra.Command)
	each = func(cmd *cobra.Command) {
		listed := 0
		_, sets := flagGroupsOf(cmd)
		for _, set := range sets {
			set.VisitAll(func(f *pflag.Flag) {
				listed++
				name, _ := pflag.UnquoteUsage(f)
				assert.Equal(t, strings.ToUpper(name), name, "%s --%s", cmd.Name(), f.Name)
			})
		}
		all := 0
		cmd.NonInheritedFlags().VisitAll(func(*pflag.Flag) { all++ })
		cmd.InheritedFlags().VisitAll(func(*pflag.Flag) { all++ })
		assert.Equal(t, all, listed, cmd.Name())
		for _, below := range cmd.Commands() {
			each(below)
		}
	}
	each(Commands())
}

func TestWholeOnly(t *testing.T) {
	for args, want := range map[string]string{
		"convert in.csv -o out.csv --origin": "", "convert in.csv --order-by kg": "order-by", "convert --append in.csv": "append",
		"profile --turn=a,b in.csv": "turn", "profile in.csv -- --turn": "", "convert --plan --append in.csv": "",
	} {
		assert.Equal(t, want, WholeOnly(strings.Fields(args)), args)
	}
}

func TestKnownTo(t *testing.T) {
	known, others := KnownTo("draft", strings.Fields("convert in.csv --as kg=decimal --origin=true --format json --step kg:trim --group-failures"))
	assert.Equal(t, "--as kg=decimal --step kg:trim", strings.Join(known, " "))
	assert.Equal(t, "--origin=true --format json --group-failures", strings.Join(others, " "))
}

// Each word that people use for a flag leads to one that some command has.
func TestOtherFlagsAreFlags(t *testing.T) {
	root := Commands()
	for word, flag := range otherFlags {
		has := false
		for _, cmd := range root.Commands() {
			has = has || cmd.Flag(flag) != nil
		}
		assert.True(t, has, "%s: --%s", word, flag)
	}
}
