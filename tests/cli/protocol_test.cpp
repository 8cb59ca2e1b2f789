// Players and hosts as processes of their own: series over loopback, kills, people, other programs.
#include <fmt/core.h>
#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include <nlohmann/json.hpp>
#include <sstream>

#include "orchard/record.hpp"
#include "support/files.hpp"
#include "support/process.hpp"

namespace orchard::cli_test {
namespace {

using nlohmann::json;
using ::testing::AllOf;
using ::testing::HasSubstr;
using ::testing::Not;

// A shell with what these tests share; each is in a folder of its own, and leaves no process.
testing::ProcessResult run_shell(const testing::TemporaryFolder& folder,
                                 const std::string& script) {
  const std::string before = fmt::format(
      R"SH(cd {} || exit 9
orchard={}
games={}
# serve NAME OPTION…: begins a player; its address is in NAME.at.
serve() {{
  name=$1; shift
  $orchard serve --called $name "$@" > $name.out 2> $name.err &
  eval "pid_$name=\$!"
  for i in $(seq 200); do grep -q http $name.out && break; sleep 0.05; done
  grep -o 'http://[0-9.:]*' $name.out > $name.at
}}
# waits_for FILE LINES: until the file has so many.
waits_for() {{
  for i in $(seq 400); do [ "$(wc -l < $1 2> /dev/null || echo 0)" -ge $2 ] && return; sleep 0.02; done
}}
# sit LINES OPTION…: a person who types these lines at a seat, at the address in seat.at.
sit() {{
  printf "$1" | $orchard play --join 0 > seat.out 2> seat.err &
  for i in $(seq 200); do grep -q http seat.out && break; sleep 0.05; done
  grep -o 'http://[0-9.:]*' seat.out | head -1 > seat.at
}}
# waits_until FILE TEXT: until it stands there.
waits_until() {{
  for i in $(seq 100); do grep -q "$2" $1 && return; sleep 0.05; done
}}
trap 'kill -9 $(jobs -p) 2> /dev/null' EXIT
)SH",
      folder.path(""), ORCHARD_COMMAND, testing::source_path("games"));
  return testing::run_process({"/bin/bash", "-c", before + script});
}

TEST(Protocol, TwoPlayersAndAHostPlayASeries) {
  const testing::TemporaryFolder folder;
  const auto result = run_shell(folder, R"SH(
serve Ada --opponent playouts
serve Ben --opponent careful --think-ahead
$orchard host $games/espalier_3x3.gdl --player Ada=$(cat Ada.at) --player Ben=$(cat Ben.at) \
  --games 20 --at-once 4 --play-seconds 2 --records kept --with-rules || exit 1
$orchard records kept || exit 2
$orchard host $games/espalier_3x3.gdl --player Ada=$(cat Ada.at) --player random \
  --games 2 --play-seconds 2 --json > series.json || exit 3
kill -INT $pid_Ada; wait $pid_Ada || exit 4
cat Ada.out
)SH");
  EXPECT_EQ(result.status, 0) << result.out << result.err;
  EXPECT_THAT(result.out,
              AllOf(HasSubstr("match 20: "), HasSubstr("20 matches, "),
                    HasSubstr("20 matches; every move, percept and result is right in 20"),
                    HasSubstr("22 matches: 22 ended, 0 given up"),
                    HasSubstr("0 of them random because nothing was known in time; 0 messages "
                              "refused")));
  EXPECT_THAT(result.out, Not(HasSubstr("of Ada made by the host")));
  const json series = json::parse(testing::read_file(folder.path("series.json")));
  EXPECT_EQ(series["matches"], 2);
  EXPECT_TRUE(series["players"][0]["replaced"].empty());
}

// The player is killed in the middle of a match, and comes back; then the host is.
TEST(Protocol, KillsAreHandledAndRecorded) {
  const testing::TemporaryFolder folder;
  const auto result = run_shell(folder, R"SH(
serve Ada --opponent playouts:0.1s
host="$orchard host $games/silo.gdl --seat miller=$(cat Ada.at) --seat baker=careful --play-seconds 1"
$host --record one.jsonl > host.out & host_pid=$!
waits_for one.jsonl 5
kill -9 $pid_Ada; sleep 1.3
serve Ada --opponent playouts:0.1s --listen $(grep -o '[0-9]*$' Ada.at)
wait $host_pid || exit 1
$orchard records one.jsonl --game $games/silo.gdl > one.out || exit 2
$host --record two.jsonl > host.out & host_pid=$!
waits_for two.jsonl 6
kill -9 $host_pid
cp two.jsonl cut.jsonl
$host --resume two.jsonl --record three.jsonl > host.out || exit 3
$orchard records three.jsonl --game $games/silo.gdl > three.out || exit 4
$host --resume three.jsonl
[ $? -eq 2 ] || exit 5
)SH");
  ASSERT_EQ(result.status, 0) << result.out << result.err;
  const MatchRecord one = read_record(folder.path("one.jsonl")).value();
  ASSERT_TRUE(one.end);
  std::size_t replaced = 0;
  for (const PlyNotes& notes : one.notes) replaced += notes.replaced.size();
  EXPECT_GE(replaced, 1u) << "while it was gone";
  EXPECT_TRUE(one.notes.back().replaced.empty()) << "and not when it was back";
  EXPECT_THAT(testing::read_file(folder.path("one.out")), HasSubstr("the host chose]"));
  const MatchRecord cut = read_record(folder.path("cut.jsonl"), {.cut_line = true}).value();
  const MatchRecord whole = read_record(folder.path("three.jsonl")).value();
  EXPECT_FALSE(cut.end);
  EXPECT_GE(cut.joints.size(), 4u);
  ASSERT_GT(whole.joints.size(), cut.joints.size());
  for (std::size_t ply = 0; ply < cut.joints.size(); ++ply) {
    EXPECT_EQ(whole.joints[ply], cut.joints[ply]);
  }
  EXPECT_THAT(result.err, HasSubstr("has come to its end"));
}

TEST(Protocol, APersonSitsAtASeat) {
  const testing::TemporaryFolder folder;
  const auto result = run_shell(folder, R"SH(
sit 'nonsense\n1\n2\n2\n1\n1\n1\n1\n1\n1\n'
$orchard host $games/espalier_3x3.gdl --seat east=$(cat seat.at) --seat west=random \
  --play-seconds 5 --start-seconds 3 || exit 1
waits_until seat.out result:
cat seat.out
)SH");
  EXPECT_EQ(result.status, 0) << result.out << result.err;
  EXPECT_THAT(result.out, AllOf(HasSubstr("a seat is free at http://127.0.0.1:"),
                                HasSubstr("a match begins: you are east"),
                                HasSubstr("nonsense is no legal move"), HasSubstr("east (5 s)> 1"),
                                HasSubstr("result: "), HasSubstr("waiting for the next match")));
}

// What is hidden from a role is not shown at its seat.
TEST(Protocol, APersonSeesOnlyWhatItsRoleMaySee) {
  const testing::TemporaryFolder folder;
  const auto result = run_shell(folder, R"SH(
sit '1\n1\n1\n1\n1\n1\n1\n1\n1\n1\n'
$orchard host $games/hedgerow.gdl --seat ash=$(cat seat.at) --seat birch=random \
  --play-seconds 5 --start-seconds 3 --seed 6 --record match.jsonl || exit 1
waits_until seat.out 'the match is over'
)SH");
  EXPECT_EQ(result.status, 0) << result.out << result.err;
  const std::string seen = testing::read_file(folder.path("seat.out"));
  EXPECT_THAT(seen, HasSubstr("seen by ash: what the rules have told it"));
  EXPECT_THAT(seen, Not(HasSubstr("birch holds")));
  const MatchRecord record = read_record(folder.path("match.jsonl")).value();
  for (const PlyNotes& notes : record.notes) EXPECT_TRUE(notes.replaced.empty());
}

// Whoever is waited for, the signal ends it, and the match can be gone on with.
TEST(Protocol, AHostEndsInOrderWhenItIsInterrupted) {
  const testing::TemporaryFolder folder;
  const auto result = run_shell(folder, R"SH(
serve Ada --opponent playouts:20s --margin 1
$orchard host $games/silo.gdl --seat miller=$(cat Ada.at) --seat baker=careful \
  --play-seconds 60 --start-seconds 5 --record match.jsonl > host.out & host_pid=$!
waits_for match.jsonl 1
sleep 1; begun=$(date +%s); kill -INT $host_pid; wait $host_pid
[ $? -eq 3 ] || exit 1
[ $(($(date +%s) - begun)) -lt 10 ] || exit 2
$orchard host $games/silo.gdl --seat miller=random --seat baker=random --resume match.jsonl || exit 3
cat host.out
)SH");
  EXPECT_EQ(result.status, 0) << result.out << result.err;
  EXPECT_THAT(result.out, HasSubstr("match 1: interrupted, 0 plies"));
}

// Another program, which shares no code with this one.
TEST(Protocol, APlayerInAnotherLanguagePlays) {
  const testing::TemporaryFolder folder;
  const auto result = run_shell(folder, fmt::format(R"SH(
python3 {0}/random_player.py > python.out &
for i in $(seq 200); do grep -q http python.out && break; sleep 0.05; done
$orchard host {0}/two_beds.gdl --seat north=$(cat python.out) --seat south=playouts:20 --games 5 \
  --play-seconds 5 --start-seconds 5 --records kept --quiet || exit 1
$orchard records kept --game {0}/two_beds.gdl
)SH",
                                                    testing::source_path("examples/protocol")));
  EXPECT_EQ(result.status, 0) << result.out << result.err;
  EXPECT_THAT(result.out, HasSubstr("every move, percept and result is right in 5"));
  EXPECT_THAT(result.out, Not(HasSubstr("of north made by the host")));
}

TEST(Protocol, SaysWhatIsWrongWithACall) {
  const std::string game = testing::game_path("espalier_3x3");
  const std::tuple<std::vector<std::string>, std::string> calls[] = {
      {{"serve", "--opponent", "nobody"}, "there is no opponent nobody"},
      {{"serve", "--listen", "somewhere"}, "somewhere is no address"},
      {{"serve", "--called", "(a b)"}, "cannot be a name"},
      {{"serve", "--log", "/no/where/log"}, "cannot write"},
      {{"host", game, "--seat", "east=http://nowhere"}, "is no address"},
      {{"host", game, "--seat", "east=nobody"}, "there is no opponent nobody"},
      {{"host", game, "--player", "random"}, "1 players for 2 seats"},
      {{"host", game, "--record", "x", "--games", "2"}, "--record is of one match"},
      {{"host", game, "--resume", "/no/where"}, "cannot"},
      {{"play"}, "GAME is required"},
      {{"play", "--join", "x"}, "x is no address"},
      {{"records", "/no/where"}, "cannot"},
  };
  for (const auto& [call, message] : calls) {
    const auto result = testing::run_orchard(call);
    EXPECT_EQ(result.status, 2) << call[0] << " " << message << result.out;
    EXPECT_THAT(result.err, HasSubstr(message));
  }
}

// ---- Records ----

class Records : public ::testing::Test {
 protected:
  Records() {
    const auto played =
        testing::run_orchard({"play", game_, "--record", file_}, "1\n1\n1\n1\n1\n1\n1\n1\n1\n");
    EXPECT_EQ(played.status, 0) << played.err;
  }
  testing::ProcessResult records(std::vector<std::string> more) {
    more.insert(more.begin(), {"records", file_, "--game", game_});
    return testing::run_orchard(more);
  }
  const testing::TemporaryFolder folder_;
  const std::string game_ = testing::game_path("espalier_3x3");
  const std::string file_ = folder_.path("played.jsonl");
};

TEST_F(Records, ShowsOneMatch) {
  const auto shown = records({});
  EXPECT_EQ(shown.status, 0) << shown.err;
  EXPECT_THAT(shown.out, AllOf(HasSubstr("    1  east (tie 1 1)"), HasSubstr("over: ")));
  EXPECT_THAT(records({"--ply", "1", "--quiet"}).out, HasSubstr("ply 1   west to move"));
  EXPECT_EQ(records({"--ply", "99"}).status, 2);
  EXPECT_THAT(records({"--ply", "2", "--drawn"}).out, HasSubstr("(position (drawn"));
  const std::string made = folder_.write("made.cases", records({"--as-case", "as played"}).out);
  EXPECT_EQ(testing::run_orchard({"cases", game_, "--file", made}).status, 0);
  EXPECT_EQ(records({"--svg", folder_.path("strip.svg"), "--strip"}).status, 0);
  EXPECT_THAT(testing::read_file(folder_.path("strip.svg")), HasSubstr("ply 2"));
  const auto stepped = testing::run_orchard({"records", file_, "--game", game_, "--step"},
                                            "\n\nback\nlast\nfirst\n3\nwhat\nquit\n");
  EXPECT_THAT(stepped.out, AllOf(HasSubstr("ply 0 of "), HasSubstr("ply 3 of "),
                                 HasSubstr("the number of a ply, or quit")));
}

TEST_F(Records, TellsWhatItCouldNotLookAt) {
  const auto without = testing::run_orchard({"records", file_});
  EXPECT_EQ(without.status, 0);
  EXPECT_THAT(without.out, HasSubstr("nothing was held against them"));
  const auto other = testing::run_orchard({"records", file_, "--game", testing::game_path("silo")});
  EXPECT_EQ(other.status, 1);
  EXPECT_THAT(other.err, HasSubstr("its roles are east, west"));
  const auto nowhere = testing::run_orchard({"records", file_, "--where", "terminal"});
  EXPECT_EQ(nowhere.status, 1);
  EXPECT_THAT(nowhere.out, AllOf(HasSubstr("holds in 0 of 0 matches"), HasSubstr("not looked at")));
}

TEST_F(Records, FindsWhereAFormulaHolds) {
  const auto found = records({"--where", "(true (square 1 1 east))"});
  EXPECT_EQ(found.status, 0);
  EXPECT_THAT(found.out, AllOf(HasSubstr("ply 1 2 3"), HasSubstr("holds in 1 of 1 match")));
  EXPECT_EQ(records({"--where", "(true (square 1 1 west))"}).status, 1);
  EXPECT_EQ(records({"--where", "(true"}).status, 2);
  const json document = json::parse(records({"--where", "terminal", "--json"}).out);
  EXPECT_EQ(document["matches"], 1);
  EXPECT_EQ(document["found"][0]["plies"].size(), 1u);
}

TEST_F(Records, CountsThoseOfASeries) {
  const std::string store = folder_.path("series.sqlite");
  const auto played = testing::run_orchard(
      {"series", game_, "--games", "40", "--store", store, "--moves", "--threads", "2"});
  EXPECT_EQ(played.status, 0) << played.err;
  const auto listed = testing::run_orchard({"records", store, "--game", game_});
  EXPECT_THAT(listed.out, HasSubstr("40 matches; every move, percept and result is right in 40"));
  const auto openings = testing::run_orchard({"records", store, "--game", game_, "--openings", "1",
                                              "--svg", folder_.path("tree.svg"), "--json"});
  const json tree = json::parse(openings.out);
  EXPECT_EQ(tree["matches"], 40);
  EXPECT_EQ(tree["next"].size(), 3u);
  EXPECT_THAT(testing::read_file(folder_.path("tree.svg")), HasSubstr("how 40 matches began"));
  EXPECT_EQ(testing::run_orchard({"series", game_, "--moves"}).status, 2);
  const std::string results = folder_.path("results.sqlite");
  (void)testing::run_orchard({"series", game_, "--games", "2", "--store", results});
  EXPECT_THAT(testing::run_orchard({"records", results}).err, HasSubstr("no whole matches"));
}

TEST_F(Records, RefusesWhatWasChanged) {
  std::string text = testing::read_file(file_);
  text.replace(text.find("(tie 1 1)"), 9, "(tie 1 2)");
  const std::string changed = folder_.write("changed.jsonl", text);
  const auto result = testing::run_orchard({"records", file_, changed, "--game", game_, "--json"});
  EXPECT_EQ(result.status, 1);
  const json document = json::parse(result.out);
  EXPECT_EQ(document["records"].size(), 1u) << "the other one is there";
  EXPECT_EQ(document["diagnostics"][0]["code"], "bad-record");
  EXPECT_EQ(document["diagnostics"][0]["line"], 2);
  const std::string cut = folder_.write("cut.jsonl", testing::read_file(file_).substr(0, 400));
  const auto shown = testing::run_orchard({"records", cut, "--game", game_});
  EXPECT_EQ(shown.status, 1);
  EXPECT_THAT(shown.err, HasSubstr("the last line was cut off; the match is complete up to ply"));
}

// Of each game a record of its own, moves taken back and all.
TEST_F(Records, FollowsASittingThroughUndoAndAgain) {
  const std::string file = folder_.path("sitting.jsonl");
  const auto played =
      testing::run_orchard({"play", game_, "--record", file, "--seat", "west=random"},
                           "1\nundo\n2\n1\n1\n1\n1\n1\nagain\n1\n");
  EXPECT_EQ(played.status, 0);
  const auto records = read_records(file).value();
  ASSERT_EQ(records.size(), 2u);
  EXPECT_TRUE(records[0].end);
  EXPECT_EQ(records[0].joints[0][0].to_string(), "(tie 1 2)") << "the first one was taken back";
  EXPECT_FALSE(records[1].end);
  const Game game = Game::load(game_).value();
  for (const MatchRecord& record : records) EXPECT_TRUE(verify_record(game, record).empty());
  const auto resumed = testing::run_orchard({"records", file, "--game", game_});
  EXPECT_THAT(resumed.out, HasSubstr("not ended"));
}

}  // namespace
}  // namespace orchard::cli_test
