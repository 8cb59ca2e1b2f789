#include "base/option_table.hpp"

#include <algorithm>
#include <array>

namespace orchard {
namespace {

using Kind = OptionFacts::Kind;

constexpr std::array commands = {
    CommandFacts{
        "show", "draw a position, whose turn it is and what is legal", "GAME",
        "Draws the start, a position from a file, or the position after some random plies, "
        "with the legal moves listed and marked on the board, and the result at an end. "
        "Works on an unfinished description as soon as it names roles."},
    CommandFacts{
        "why", "why something holds in a position, or why not", "GAME",
        "QUESTION is a literal of the rules: \"legal east (tie 1 1)\", \"terminal\", \"goal east "
        "100\", \"true (turn west)\", any relation of the description, or \"not …\" of these; a "
        "variable stands for anything. What holds is proved, clause by clause with the places in "
        "the file, shortest proof first. For what does not hold: every clause that could have "
        "given it, what is missing in each, the nearest first. A fluent is traced back to the "
        "moves since which it has held. What depends on moves (next, sees, does) is asked of the "
        "last ones of --after. Exit status 0, whatever the answer.",
        "", "QUESTION"},
    CommandFacts{
        "check", "whether the rules are right: slips, questions, claims", "GAME",
        "First the text: errors, which break the language, and suspicious findings, which are "
        "almost surely slips, each with its place, the line and a remedy. Then every position that "
        "can be reached: does play always end, can everybody always move and win, is every end "
        "scored, does a square ever hold nothing, or two things, does every rule take part, and "
        "the "
        "claims of NAME.claims. What fails is shown with the shortest line of play to it, drawn. "
        "Exit status 2 for errors, 1 if something fails or is suspicious, 3 if the budget ended "
        "before all was decided, else 0."},
    CommandFacts{
        "find", "the shortest line to a position where a formula holds", "GAME",
        "FORMULA is made of literals as in cases (true, legal, does, terminal, goal, any relation "
        "of the description), and, or, not, implies, (exists ?v RELATION FORMULA), (forall ?v "
        "RELATION FORMULA); a variable that is not bound stands for anything: \"(and terminal "
        "(goal east 50))\". The line and its last position are drawn. Exit status 1 if there is no "
        "such position, 3 if the budget ended before one was met.",
        "", "FORMULA"},
    CommandFacts{
        "desk", "the rules, the board and all that can be asked, on a page", "GAME",
        "Prints an address of this machine; a browser shows the desk there: the description in an "
        "editor, the board beside it, drawn anew with every change, at the same point of the same "
        "line of play. Moves are made by clicking; opponents play along; every place, move and word "
        "can be asked why; cases run as one types; questions, claims, formulas and random games "
        "run in the background. Files are saved where the description is. Without a file GAME an "
        "empty one is begun. Nobody else can use the address: it is of this machine alone and "
        "holds a secret. Runs until it is interrupted."},
    CommandFacts{
        "language-server", "what the desk knows of a text, for any editor", "",
        "Speaks the Language Server Protocol over standard input and output; an editor begins it, "
        "not a person. Findings are underlined as one types, with their remedies; a name "
        "says what it is for, what can stand in it and what holds at the start; definitions, uses, "
        "renaming through rules, cases, claims and drawing rules, completion, layout; above each "
        "case and claim stands how it came out. Reads the files of descriptions and writes none."},
    CommandFacts{
        "compare", "whether two descriptions are the same game", "GAME",
        "The same game: along every line of play the same moves are legal for the same roles, the "
        "same positions are ends with the same goals, and every role is told the same. Fluents and "
        "relations may differ altogether. Every position is looked at, or it is proved by induction "
        "that no line of play shows a difference. If there is one, the shortest line to it is "
        "shown, with both boards and the rules on either side. Exit status 0 for the same game, 1 "
        "for another one, 3 if the budget ended before it was decided. --since REVISION compares the "
        "description as it was then, in its version-control repository, with what it is now.",
        "", "[OTHER]"},
    CommandFacts{
        "cases", "run the cases of a description", "GAME",
        "Cases are short tests: a position, moves, and what is expected then. A case that "
        "fails is shown with its position drawn, the expected and the found. Exit status 1 "
        "if one fails."},
    CommandFacts{"walk", "write random games out, position by position", "GAME",
                 "Every role chooses uniformly among its legal moves. Game K of a seed is the same "
                 "game here and in show --after."},
    CommandFacts{"census", "count every reachable position by depth", "GAME",
                 "Breadth-first and exact. A position counts at the depth at which it is first "
                 "reached; play does not go on from an end."},
    CommandFacts{"playouts", "play many random games and sum them up", "GAME",
                 "Outcomes with their uncertainty, lengths and numbers of legal moves."},
    CommandFacts{"play", "play at the terminal", "[GAME]",
                 "People and opponents in any seat. Type a move as a term, its number in the list, "
                 "the place where it is shown, or as much of it as is unique; `help` lists the "
                 "other words. On a terminal the board stays where it is, the arrow keys bring "
                 "back what was typed, and Tab completes. Input may come from a pipe; then the "
                 "game is a plain transcript. --join takes a seat of a match that is hosted "
                 "elsewhere: the rules come from there, and GAME may be left out."},
    CommandFacts{
        "solve", "the value under best play, and the best moves", "GAME",
        "Works out every position that can follow and hands values back from the ends: exact for "
        "games of one role, of roles that take turns, with chance, and for two roles with opposed "
        "interests that choose at once (mixed moves, with their shares). With more than two roles "
        "that take turns each is taken to want what is best for itself; where more than two choose "
        "at once, or interests are not opposed, the value of each is what it can make sure of, "
        "whatever the others do together. Where positions come again, what can be forced in "
        "finitely many moves counts. A game of one or two opposed roles without chance that has "
        "too many positions to keep is searched to its ends instead. Says whether the value is "
        "proved. --keep FILE writes what every position is worth, for cases, check and solved:FILE "
        "in a seat. Exit status 3 if it is not solved."},
    CommandFacts{
        "series", "many matches between the same players", "GAME",
        "Wins, draws and losses of each player, as a whole and by seat, with 95 % intervals, mean "
        "goals, lengths and time a choice. The score counts a draw as half. Players named by "
        "--player change seats from match to match; --seat says who sits where, and they stay."},
    CommandFacts{
        "learn", "a table that learns from its own games", "GAME",
        "In every position each move has tokens; a move is drawn in proportion to them, and the "
        "last "
        "one gains or loses by the result. Prints wins block by block. --table FILE keeps what was "
        "learnt, and learning continues from it; --show prints it, position by position, those "
        "marked "
        "in which every move is bad; --merge adds other tables. A learnt table plays with --seat "
        "ROLE=learned:FILE.",
        ""},
    CommandFacts{
        "records", "saved matches: listed, shown, searched, held against their rules", "FILE…",
        "Reads match records, as play, host and series write them, and all those of a folder. Every "
        "move, percept and result is held against the rules: those of --game, or of the record "
        "itself, or of the description of that name beside it or in the present folder. Of one "
        "match the moves and the last board are shown; several are listed. A record that was "
        "changed, cut off, or does not fit its rules is told with its place. Exit status 1 if there "
        "is one, or if --where holds nowhere."},
    CommandFacts{
        "serve", "a player for matches of other programs, over the match protocol", "",
        "Answers the messages of the language's open match protocol over HTTP: info, preview, start, "
        "play, stop, abort, in the form that tells every move and in the one that tells percepts. "
        "Any opponent plays, in any number of matches at once, and always answers within the clock "
        "with the best move it has found. Rules that come over the wire are bounded in time and "
        "memory; include and other directives are refused. Listens on this machine alone unless "
        "--listen says otherwise. Runs until it is interrupted."},
    CommandFacts{
        "host", "matches between players elsewhere and here, over the match protocol", "GAME",
        "The other side of the protocol: begins matches with players at addresses and with opponents "
        "of its own, keeps the clocks, makes a random move for who is late, illegal or gone, and "
        "says so. A player that comes back is asked to go on from where the match stands. With more "
        "players than roles each choice of them meets, and all are rated. Exit status 3 if an "
        "interrupt ended it; --resume goes on with a match that was recorded."},
    CommandFacts{"new", "begin a new game", "NAME",
                 "Writes NAME.gdl, a small game with comments, and NAME.cases, NAME.claims and "
                 "NAME.draw beside it, to start from. Nothing is overwritten."},
    CommandFacts{"format", "lay a description out, or convert its syntax", "GAME",
                 "Order, comments and single blank lines stay. Writes to standard output unless "
                 "--output names a file, which may be the description itself. Files of cases are "
                 "laid out too."},
    CommandFacts{
        "export", "what the rules become: circuit, ground rules, statistics", "GAME",
        "stats: clauses, gates and operations, pass by pass. aiger: the game as a "
        "sequential circuit in the AIGER format; inputs are moves, latches fluents, outputs "
        "terminal, goals, legal moves and percepts. rules: the same game without variables. "
        "network: the circuit as such rules, a relation for each gate.",
        "stats|aiger|rules|network"},
};

constexpr std::uint64_t any = ~std::uint64_t{0};

constexpr std::array options = {
    OptionFacts{
        "json", Kind::flag, "", "", 0, 0,
        "show why check cases walk census playouts solve series learn new format export find compare "
        "records host",
        "one JSON document on standard output (walk: one a line)"},
    OptionFacts{"quiet", Kind::flag, "", "", 0, 0, "*", "no progress and no remarks"},
    OptionFacts{"verbose", Kind::flag, "", "", 0, 0, "*", "remarks in full"},
    OptionFacts{"ascii", Kind::flag, "", "", 0, 0,
                "show why cases walk play solve series learn check find compare records",
                "draw with plain ASCII characters"},
    OptionFacts{"drawing", Kind::text, "FILE", "", 0, 0,
                "show cases walk play solve learn check find records host",
                "the drawing rules (NAME.draw beside NAME.gdl); none: drawn without"},
    OptionFacts{"turn", Kind::flag, "", "", 0, 0, "show cases walk play solve check find records",
                "boards as seen from the opposite side"},
    OptionFacts{"svg", Kind::output, "FILE", "", 0, 0, "show series learn",
                "write the picture, or the chart, as SVG"},
    OptionFacts{"svg", Kind::output, "FILE", "", 0, 0, "play",
                "at the end, write a picture of the last game as SVG"},
    OptionFacts{"svg", Kind::output, "FILE", "", 0, 0, "records",
                "write the last position of a match, or the tree of --openings, as SVG"},
    OptionFacts{"png", Kind::output, "FILE", "", 0, 0, "show play series learn records",
                "the same as PNG"},
    OptionFacts{"strip", Kind::flag, "", "", 0, 0, "show play records",
                "with --svg or --png: every position of the line of play in one picture"},
    OptionFacts{"animate", Kind::flag, "", "", 0, 0, "show play records",
                "with --svg: every position of the line of play, one after another"},
    OptionFacts{"pace", Kind::seconds, "S", "1", 0, 0, "show play records",
                "how long --animate shows a position; the last one stays three times as long"},
    OptionFacts{"frames", Kind::text, "DIR", "", 0, 0, "show play records",
                "write a PNG file of every position of the line of play to this folder"},
    OptionFacts{"every-move", Kind::flag, "", "", 0, 0, "show play",
                "list every legal move, however many there are"},
    OptionFacts{
        "light", Kind::choice, "both|light|dark", "both", 0, 0, "show play records",
        "the surroundings of the picture; both: as the reader's device asks for (PNG: light)"},
    OptionFacts{"effects", Kind::flag, "", "", 0, 0, "show", "what each legal move would change"},
    OptionFacts{"drawn", Kind::flag, "", "", 0, 0, "show find records",
                "the position as a form that --position reads, with the board drawn"},
    OptionFacts{"allow", Kind::repeated_text, "CODE", "", 0, 0, "check",
                "a code of findings, or a question, to leave out; may be given several times"},
    OptionFacts{"claims", Kind::text, "FILE", "", 0, 0, "check play cases",
                "the file of claims (NAME.claims beside NAME.gdl); none: without"},
    OptionFacts{"against-claim", Kind::text, "NAME", "", 0, 0, "play",
                "a claim that somebody can force something, which fails: the other roles play what "
                "keeps it from coming about"},
    OptionFacts{"text-only", Kind::flag, "", "", 0, 0, "check",
                "look at the text of the rules, and play nothing"},
    OptionFacts{
        "report", Kind::output, "FILE", "", 0, 0, "check",
        "write what is found as one page of HTML, with boards and the rules that took part"},
    OptionFacts{"proofs", Kind::text, "DIR", "", 0, 0, "check",
                "write what proofs by induction rest on to this folder, in forms that other solvers "
                "check"},
    OptionFacts{"since", Kind::text, "REVISION", "", 0, 0, "compare",
                "instead of another description: the same as it was in a revision of its "
                "repository (HEAD, HEAD~3, a tag …); that is the first, the file as it is the second"},
    OptionFacts{"summary", Kind::flag, "", "", 0, 0, "compare",
                "what both are like: positions, lengths, mean goals, moves that are new or gone, "
                "questions and claims that are answered otherwise"},
    OptionFacts{"find-names", Kind::flag, "", "", 0, 0, "compare",
                "find out from play what the other description calls roles, moves and constants; "
                "the names are printed as --renaming reads them"},
    OptionFacts{"renaming", Kind::text, "FILE", "", 0, 0, "compare",
                "what things of the other description are called: forms (name FIRST SECOND) and "
                "(move FIRST SECOND)"},
    OptionFacts{"watch", Kind::flag, "", "", 0, 0, "cases check",
                "run again whenever a description, cases, claims or drawing rules in the folder "
                "change, and say what is answered otherwise; an interrupt ends it"},
    OptionFacts{"cases", Kind::output, "FILE", "", 0, 0, "check",
                "write the lines of play that show what fails to a file of cases"},
    OptionFacts{"case", Kind::flag, "", "", 0, 0, "find", "write the line as a case"},
    OptionFacts{"as-case", Kind::text, "NAME", "", 0, 0, "records",
                "write the match, up to --ply, as a case of that name"},
    OptionFacts{"game", Kind::text, "FILE", "", 0, 0, "records",
                "the rules that the matches were played by"},
    OptionFacts{"match", Kind::number, "N", "", 1, 1'000'000'000, "records",
                "the Nth of the matches only"},
    OptionFacts{"ply", Kind::number, "N", "", 0, 1'000'000'000, "records",
                "the position after N plies instead of the last one"},
    OptionFacts{"step", Kind::flag, "", "", 0, 0, "records",
                "go through a match at the terminal, position by position"},
    OptionFacts{"where", Kind::text, "FORMULA", "", 0, 0, "records",
                "in which matches, and after how many plies, a formula holds (as of find)"},
    OptionFacts{"openings", Kind::number, "PLIES", "", 1, 100, "records",
                "how the matches began, how often, and how they came out"},
    OptionFacts{"least", Kind::number, "N", "1", 1, 1'000'000'000, "records",
                "with --openings: sum up moves that were made in fewer matches"},
    OptionFacts{"opponent", Kind::text, "WHO", "playouts", 0, 0, "serve",
                "who plays: random, greedy, careful, lookahead[:PLIES|:SECONDSs], "
                "playouts[:COUNT|:SECONDSs][/THREADS], perfect, solved:FILE, learned:FILE, "
                "rules:FILE, lookahead…@FILE, playouts…@FILE"},
    OptionFacts{"called", Kind::text, "NAME", "orchard", 0, 0, "serve",
                "the name that hosts are told"},
    OptionFacts{"listen", Kind::text, "ADDRESS", "127.0.0.1:0", 0, 0, "serve",
                "where to listen: a port of this machine, or HOST:PORT; port 0: any free one"},
    OptionFacts{"matches", Kind::number, "N", "64", 1, 10'000, "serve", "matches at once"},
    OptionFacts{"margin", Kind::seconds, "S", "0.2", 0, 0, "serve",
                "answer so long before the end of a clock (of short clocks, a quarter of it)"},
    OptionFacts{"idle", Kind::seconds, "S", "600", 0, 0, "serve",
                "give a match up when nothing was heard of it for so long, beside its clocks"},
    OptionFacts{"think-ahead", Kind::flag, "", "", 0, 0, "serve",
                "search on while the others choose (playouts)"},
    OptionFacts{"match-memory", Kind::bytes, "BYTES", "64M", 1 << 20, any, "serve",
                "what a match may keep for its next moves"},
    OptionFacts{"message-bytes", Kind::bytes, "BYTES", "1M", 1000, 1 << 30, "serve",
                "limit: size of a message, which holds the rules"},
    OptionFacts{"log", Kind::output, "FILE", "", 0, 0, "serve",
                "write down here what happens (standard error)"},
    OptionFacts{"join", Kind::text, "ADDRESS", "", 0, 0, "play",
                "be a player of a hosted match, at a port of this machine or HOST:PORT; what is "
                "drawn is what the role may see"},
    OptionFacts{"start-seconds", Kind::seconds, "S", "10", 0, 0, "host",
                "the clock before the first move"},
    OptionFacts{"play-seconds", Kind::seconds, "S", "10", 0, 0, "host", "the clock of each move"},
    OptionFacts{"at-once", Kind::number, "N", "1", 1, 1000, "host", "matches at the same time"},
    OptionFacts{"record", Kind::output, "FILE", "", 0, 0, "play host",
                "write the match down while it is played, a line a ply"},
    OptionFacts{"records", Kind::text, "DIR", "", 0, 0, "host",
                "the same for each match of a series, in this folder"},
    OptionFacts{"with-positions", Kind::flag, "", "", 0, 0, "host",
                "records hold the position after each ply, too"},
    OptionFacts{"with-rules", Kind::flag, "", "", 0, 0, "host", "records hold the rules, too"},
    OptionFacts{"board", Kind::number, "PORT", "", 0, 65'535, "host",
                "show the boards live on a page of this machine; port 0: any free one"},
    OptionFacts{"shrink", Kind::output, "FILE", "", 0, 0, "check",
                "write the smallest description that still shows a fault: the first one, or --fault"},
    OptionFacts{"fault", Kind::text, "ID", "", 0, 0, "check",
                "with --shrink: the question, claim, case or code of a finding that is to fail"},
    OptionFacts{"sarif", Kind::output, "FILE", "", 0, 0, "check",
                "write the diagnostics to a file in the form SARIF 2.1.0"},
    OptionFacts{"domains", Kind::flag, "", "", 0, 0, "check",
                "list what can stand at every argument of every relation, fluent and move"},
    OptionFacts{"to", Kind::choice, "prefix|infix", "", 0, 0, "format",
                "the syntax to write (that of the file; that of --output's name)"},
    OptionFacts{"expand", Kind::flag, "", "", 0, 0, "format",
                "work the directives out, so that plain rules are left, without comments"},
    OptionFacts{"output", Kind::output, "FILE", "", 0, 0, "format export", "write to a file"},
    OptionFacts{"coverage", Kind::flag, "", "", 0, 0, "cases",
                "what the cases show of the rules: clauses that hold in no case, conditions that "
                "never decide in one, and cases that would show them (--verbose: line by line)"},
    OptionFacts{"faults", Kind::flag, "", "", 0, 0, "cases",
                "plant small faults in the rules, one at a time, and tell which of them nobody "
                "notices: neither the cases, the claims, the questions of check, nor the text"},
    OptionFacts{"sample", Kind::number, "N", "300", 1, 1'000'000, "cases",
                "with --faults: plant at most N, some of each kind"},
    OptionFacts{"mend", Kind::flag, "", "", 0, 0, "cases",
                "where cases or claims fail: look for small edits of the rules after which all of "
                "them pass; nothing is written without --write"},
    OptionFacts{"write", Kind::number, "N", "", 1, 1'000, "cases",
                "with --mend: write the description with the Nth edit that it proposes"},
    OptionFacts{"report", Kind::output, "FILE", "", 0, 0, "cases",
                "with --coverage: write it as one page of HTML, the rules line by line"},
    OptionFacts{"junit", Kind::output, "FILE", "", 0, 0, "cases",
                "write the results to a file in the form JUnit XML"},
    OptionFacts{"file", Kind::text, "FILE", "", 0, 0, "cases",
                "the cases to run (NAME.cases beside NAME.gdl)"},
    OptionFacts{"filter", Kind::text, "TEXT", "", 0, 0, "cases",
                "only cases with this text in their name"},
    OptionFacts{"port", Kind::number, "N", "0", 0, 65'535, "desk",
                "the port of the address; 0: any free one"},
    OptionFacts{"seed", Kind::number, "N", "1", 0, any,
                "show why walk playouts play series solve learn check find compare cases serve host",
                "seed for everything random"},
    OptionFacts{"position", Kind::text, "FILE[:NAME]", "", 0, 0,
                "show why walk census playouts play", "begin at a position from a file"},
    OptionFacts{"after", Kind::text, "PLIES", "0", 0, 0, "show why solve",
                "the position after so many random plies, or after a line of play: \"(tie 1 1) "
                "(west (tie 1 2))\"; what chance does and is not written is drawn"},
    OptionFacts{"full", Kind::flag, "", "", 0, 0, "why",
                "take apart what never changes during play, too"},
    OptionFacts{"dot", Kind::output, "FILE", "", 0, 0, "why",
                "write the answer to a file as a graph in the language DOT"},
    OptionFacts{"view", Kind::text, "ROLE", "", 0, 0, "show walk",
                "only what the rules tell a role: its own moves, what it sees, and what these say "
                "at once"},
    OptionFacts{"deduced", Kind::flag, "", "", 0, 0, "show walk",
                "with --view: whatever follows from it, too, however hard it is to find out"},
    OptionFacts{"games", Kind::number, "K", "1", 1, 1'000'000'000, "host",
                "matches of each choice of players"},
    OptionFacts{"games", Kind::number, "K", "", 1, 1'000'000'000'000, "walk playouts series",
                "how many games (walk: 1; series: 100; playouts: 1000; or as many as fit "
                "--seconds)"},
    OptionFacts{"games", Kind::number, "K", "", 0, 1'000'000'000'000, "learn",
                "how many games to learn from (1000, or as many as fit --seconds)"},
    OptionFacts{"plies", Kind::number, "N", "10000", 1, 1'000'000'000,
                "walk playouts play series learn host", "break a game off after N plies"},
    OptionFacts{"count", Kind::repeated_text, "FORMULA", "", 0, 0, "playouts",
                "in how many games a formula holds (as of find), when first, and how often; may be given "
                "several times"},
    OptionFacts{"depth", Kind::number, "D", "", 0, 1'000'000'000, "census",
                "count only to this depth"},
    OptionFacts{"no-symmetry", Kind::flag, "", "", 0, 0, "census learn check find",
                "keep every position, not just one of each class that the rules treat alike"},
    OptionFacts{
        "search", Kind::flag, "", "", 0, 0, "solve",
        "search from this position only, instead of working out every position that follows"},
    OptionFacts{"all", Kind::flag, "", "", 0, 0, "solve",
                "the best moves of every position that somebody chooses in, too"},
    OptionFacts{"keep", Kind::output, "FILE", "", 0, 0, "solve",
                "write what every position is worth to this file"},
    OptionFacts{"solution", Kind::text, "FILE", "", 0, 0, "cases check",
                "take best play from this file, written by solve --keep"},
    OptionFacts{"sequences", Kind::flag, "", "", 0, 0, "census",
                "count joint-move sequences of each length too"},
    OptionFacts{"seconds", Kind::seconds, "S", "", 0, 0,
                "census playouts solve series learn check find compare cases", "stop after S seconds"},
    OptionFacts{
        "positions", Kind::number, "N", "", 1, any, "census solve check find play compare cases",
        "stop after N positions (solve: 5000000; cases: 100000, for each of --faults 20000; check, find, compare and play --against-claim: 3000000 "
        "explored, then up to 60000000 looked at one by one, 10000000 if their keys are long)"},
    OptionFacts{
        "memory", Kind::bytes, "BYTES", "", 1 << 20, any, "census check find solve compare",
        "stop when the positions take this much memory (half of the machine's; 500M, 2G …)"},
    OptionFacts{
        "checkpoint", Kind::text, "DIR", "", 0, 0, "census check find solve",
        "save progress in this folder now and then and at the end, and resume from what is there"},
    OptionFacts{"files", Kind::text, "DIR", "", 0, 0, "census",
                "put keys beyond half of --memory into files in this folder"},
    OptionFacts{"save-every", Kind::seconds, "S", "30", 0, 0, "census check find solve learn",
                "seconds between two saves"},
    OptionFacts{"threads", Kind::number, "N", "1", 1, 1024,
                "census check find solve playouts series compare cases", "threads to use"},
    OptionFacts{"threads", Kind::number, "N", "2", 1, 1024, "serve", "threads that think"},
    OptionFacts{"seat", Kind::repeated_text, "ROLE=WHO", "", 0, 0, "host",
                "who plays a role: the address of a player, as http://127.0.0.1:9147, or an opponent "
                "as in series (random)"},
    OptionFacts{"seat", Kind::repeated_text, "ROLE=WHO", "", 0, 0, "play",
                "who plays a role: person, or an opponent: random, greedy, careful, "
                "lookahead[:PLIES|:SECONDSs], playouts[:COUNT|:SECONDSs][/THREADS], perfect, "
                "solved:FILE, learned:FILE, learning:FILE (a table that learns from every game; "
                "made if it is not there), rules:FILE, lookahead…@FILE, playouts…@FILE (all "
                "seats: person; chance: random, or person)"},
    OptionFacts{"seat", Kind::repeated_text, "ROLE=WHO", "", 0, 0, "learn",
                "who plays a role: random, greedy, careful, lookahead[:PLIES|:SECONDSs], "
                "playouts[:COUNT|:SECONDSs][/THREADS], perfect, solved:FILE, learned:FILE, "
                "learning:FILE (a table that learns, too), rules:FILE, lookahead…@FILE, "
                "playouts…@FILE (random)"},
    OptionFacts{"seat", Kind::repeated_text, "ROLE=WHO", "", 0, 0, "series",
                "who plays a role: random, greedy, careful, lookahead[:PLIES|:SECONDSs], "
                "playouts[:COUNT|:SECONDSs][/THREADS], perfect, solved:FILE, learned:FILE, "
                "rules:FILE, lookahead…@FILE, playouts…@FILE (random)"},
    OptionFacts{"name", Kind::repeated_text, "ROLE=NAME", "", 0, 0, "play series host",
                "the name of who plays a role"},
    OptionFacts{"last-game", Kind::output, "FILE", "", 0, 0, "learn",
                "write down the last game learnt from; play --resume FILE shows it"},
    OptionFacts{"role", Kind::text, "ROLE", "", 0, 0, "learn",
                "the role that learns (the first one but chance)"},
    OptionFacts{"table", Kind::text, "FILE", "", 0, 0, "learn",
                "the file of the table; learning continues from it if it exists"},
    OptionFacts{"merge", Kind::repeated_text, "FILE", "", 0, 0, "learn",
                "another table to add first; may be given several times"},
    OptionFacts{"show", Kind::flag, "", "", 0, 0, "learn",
                "print the table; with --table and without --games no game is played, and the file "
                "stays as it is"},
    OptionFacts{"block", Kind::number, "N", "100", 1, 1'000'000'000, "learn",
                "games a block of the curve"},
    OptionFacts{"tokens", Kind::number, "N", "3", 1, 1'000'000, "learn",
                "tokens that a move starts with"},
    OptionFacts{"win", Kind::number, "N", "1", 0, 1'000'000, "learn",
                "tokens that the last move gains after a win"},
    OptionFacts{"draw", Kind::number, "N", "0", 0, 1'000'000, "learn", "the same for a draw"},
    OptionFacts{"loss", Kind::number, "N", "1", 0, 1'000'000, "learn",
                "tokens that it loses after a loss"},
    OptionFacts{"values", Kind::flag, "", "", 0, 0, "learn",
                "learn a table of values instead of tokens"},
    OptionFacts{"step", Kind::number, "PERCENT", "20", 1, 100, "learn",
                "with --values: how far an estimate moves towards what a game was worth"},
    OptionFacts{"explore", Kind::number, "PERCENT", "10", 0, 100, "learn",
                "with --values: moves tried at random while learning"},
    OptionFacts{"starts", Kind::text, "FILE", "", 0, 0, "learn",
                "positions of a file to begin games at, one drawn for each"},
    OptionFacts{"random-plies", Kind::number, "N", "0", 0, 10'000, "learn",
                "play up to N random plies before each game"},
    OptionFacts{"player", Kind::repeated_text, "[NAME=]WHO", "", 0, 0, "series host",
                "a player; with more players than roles each plays each, and all are rated"},
    OptionFacts{"store", Kind::text, "FILE", "", 0, 0, "series",
                "keep results in a SQLite file as matches end, and resume from it"},
    OptionFacts{"moves", Kind::flag, "", "", 0, 0, "series",
                "with --store: keep whole matches; records FILE shows them"},
    OptionFacts{"move-seconds", Kind::seconds, "S", "", 0, 0, "series",
                "a choice that takes longer forfeits the match"},
    OptionFacts{"fixed-seats", Kind::flag, "", "", 0, 0, "series host",
                "the players keep their seats, as they do where --seat names them"},
    OptionFacts{"csv", Kind::output, "FILE", "", 0, 0, "series learn",
                "write the table to a file as CSV"},
    OptionFacts{"csv", Kind::output, "FILE", "", 0, 0, "solve",
                "write the best moves of every position that somebody chooses in to a file as CSV"},
    OptionFacts{"pause", Kind::seconds, "S", "0.6", 0, 0, "play",
                "on a terminal, wait so long after the opponents' moves (0: not at all)"},
    OptionFacts{"resume", Kind::text, "FILE", "", 0, 0, "play host", "go on with a saved match"},
    OptionFacts{"set", Kind::repeated_text, "NAME=NUMBER", "", 0, 0, "*",
                "a size that replaces the one in the description (#let)"},
    OptionFacts{"file-bytes", Kind::bytes, "BYTES", "16M", 1, 1 << 30, "*",
                "limit: size of a description"},
    OptionFacts{"nesting", Kind::number, "N", "10000", 1, 1'000'000, "*",
                "limit: lists within lists"},
    OptionFacts{"symbols", Kind::number, "N", "1000000", 1, 100'000'000, "*",
                "limit: different names in a description"},
    OptionFacts{"forms", Kind::number, "N", "1000000", 1, 100'000'000, "*",
                "limit: forms that the directives of a description make"},
    OptionFacts{"instances", Kind::number, "N", "5000000", 1, 1'000'000'000, "*",
                "limit: what the rules may derive in one position"},
    OptionFacts{"join-steps", Kind::number, "N", "2000000000", 1, any, "*",
                "limit: work of the rules in one position, in rows looked at or made"},
    OptionFacts{"circuit-memory", Kind::bytes, "BYTES", "", 0, any, "*",
                "limit: memory of the circuit and of what it is made of (half of the machine's); 0: "
                "without a circuit"},
    OptionFacts{"circuit-seconds", Kind::seconds, "S", "60", 0, any, "*",
                "limit: time for the rules without variables and the network of the circuit; of playouts with "
                "--seconds half of these at most"},
    OptionFacts{"term-depth", Kind::number, "N", "", 1, 10'000, "*",
                "limit: nesting of the terms that the rules build (64 in a circuit, 1024 in a single "
                "position)"},
};

constexpr PromptFacts prompt_words[] = {
    {"", "a move",
     "as a term (tie 1 2), with or without its outer parentheses; its number in the list "
     "(5, or #5); the place where it is shown (1 2, or at 1 2); or as much of the term, in whole "
     "names and "
     "numbers, as no other move begins with: of several that begin alike, the rest may be typed "
     "in the next line"},
    {"moves", "", "the board again, with every legal move"},
    {"effects", "[MOVE]", "what the move would change; every legal move without MOVE"},
    {"why", "QUESTION",
     "why something holds, or not: why legal east (tie 1 2); why terminal; why not true (turn "
     "east)"},
    {"view", "[ROLE]",
     "all that follows from what the role was told, however hard it is to find out"},
    {"name", "ROLE NAME", "calls who plays a role by a name; without NAME the role's own again"},
    {"undo", "",
     "takes back to the last choice of a person; after the end it takes the result out of the "
     "score, too"},
    {"redo", "", "makes again what was taken back"},
    {"again", "", "a new game; the score goes on"},
    {"new", "", "a new match: the score starts from zero, and names are forgotten"},
    {"case", "NAME",
     "adds the moves made so far, and whether the game is over, as a case of that name to the file "
     "of cases beside the description"},
    {"save", "FILE", "writes the match down; --resume FILE continues it in another sitting"},
    {"resume", "FILE", "continues a match that was written down"},
    {"help", "", "this list"},
    {"quit", "", "ends the sitting"},
};

}  // namespace

bool OptionFacts::belongs_to(std::string_view command) const {
  if (commands == "*") return true;
  for (std::size_t at = 0; at < commands.size();) {
    const std::size_t end = std::min(commands.find(' ', at), commands.size());
    if (commands.substr(at, end - at) == command) return true;
    at = end + 1;
  }
  return false;
}

std::span<const CommandFacts> command_table() {
  return commands;
}
std::span<const PromptFacts> prompt_table() {
  return prompt_words;
}
std::span<const OptionFacts> option_table() {
  return options;
}

}  // namespace orchard
