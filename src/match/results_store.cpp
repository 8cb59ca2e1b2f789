#include "orchard/results_store.hpp"

#include <SQLiteCpp/SQLiteCpp.h>

#include <algorithm>
#include <array>
#include <chrono>
#include <mutex>
#include <thread>

#include "base/json.hpp"
#include "match/stored_series.hpp"

namespace orchard {

struct ResultsStore::File {
  File(const std::string& file_path)
      : path(file_path), database(path, SQLite::OPEN_READWRITE | SQLite::OPEN_CREATE) {}
  std::string path;
  SQLite::Database database;
  std::mutex mutex;  // guards the database: one statement at a time
};

namespace {

constexpr int busy = 5;     // SQLITE_BUSY
constexpr int version = 2;  // of the tables; kept as the file's user_version

constexpr std::array<std::pair<Standing, std::string_view>, 6> standing_names{
    {{Standing::won, "won"},
     {Standing::drawn, "drawn"},
     {Standing::lost, "lost"},
     {Standing::scored, "scored"},
     {Standing::stuck, "stuck"},
     {Standing::none, "none"}}};

std::string_view name_of(Standing standing) {
  return std::ranges::find(standing_names, standing, &std::pair<Standing, std::string_view>::first)
      ->second;
}

Standing standing_named(std::string_view name) {
  const auto found =
      std::ranges::find(standing_names, name, &std::pair<Standing, std::string_view>::second);
  return found == standing_names.end() ? Standing::none : found->first;
}

Diagnostic fault(const std::string& path, const std::string& what) {
  Diagnostic result = plain_error("cannot-store", "the results store cannot be used: " + what,
                                  "give a file that this program made, or a new one in a folder "
                                  "that can be written");
  result.place.file = path;
  return result;
}

}  // namespace

Result<ResultsStore> ResultsStore::open(const std::string& path) {
  constexpr int most_tries = 100;
  constexpr auto between = std::chrono::milliseconds(50);
  for (int tries = 1;; ++tries) {
    try {
      return open_now(path);
    } catch (const SQLite::Exception& error) {
      // Where another process makes the same store, the library does not wait at every step.
      if (error.getErrorCode() != busy || tries == most_tries) return fault(path, error.what());
    }
    std::this_thread::sleep_for(between);
  }
}

Result<ResultsStore> ResultsStore::open_now(const std::string& path) {
  auto file = std::make_shared<File>(path);
  SQLite::Database& database = file->database;
  database.setBusyTimeout(10'000);  // another process may be writing
  // Immediately: a lock taken later, after reading, is not waited for if another process wrote in
  // between, such as one that was killed and has not gone yet, or one that makes the same store.
  // What is not committed is rolled back with the database.
  database.exec("BEGIN IMMEDIATE");
  const int found = database.execAndGet("PRAGMA user_version").getInt();
  if (found != 0 && found != version)
    return fault(path, "it is of another version of this program, which counted otherwise");
  if (found == 0 && database.execAndGet("SELECT count(*) FROM sqlite_schema").getInt() > 0) {
    return fault(path, "it holds something else");
  }
  database.exec(R"(
      CREATE TABLE IF NOT EXISTS series (
        id INTEGER PRIMARY KEY, key TEXT NOT NULL UNIQUE, game TEXT NOT NULL,
        players TEXT NOT NULL) STRICT;
      CREATE TABLE IF NOT EXISTS matches (
        series INTEGER NOT NULL REFERENCES series, number INTEGER NOT NULL, plies INTEGER NOT NULL,
        finished INTEGER NOT NULL, forfeited_by INTEGER, late INTEGER NOT NULL,
        PRIMARY KEY (series, number)) STRICT, WITHOUT ROWID;
      CREATE TABLE IF NOT EXISTS seats (
        series INTEGER NOT NULL, number INTEGER NOT NULL, player INTEGER NOT NULL,
        goal REAL NOT NULL, standing TEXT NOT NULL, seconds REAL NOT NULL, choices INTEGER NOT NULL,
        PRIMARY KEY (series, number, player)) STRICT, WITHOUT ROWID;
      CREATE TABLE IF NOT EXISTS records (
        series INTEGER NOT NULL, number INTEGER NOT NULL, lines TEXT NOT NULL,
        PRIMARY KEY (series, number)) STRICT;
      PRAGMA user_version = 2;
      COMMIT;
      PRAGMA journal_mode = WAL; PRAGMA synchronous = NORMAL;)");
  return ResultsStore(std::move(file));
}

Result<std::vector<ResultsStore::Entry>> ResultsStore::entries() const {
  const std::lock_guard lock(file_->mutex);
  try {
    std::vector<Entry> result;
    SQLite::Statement rows(file_->database,
                           "SELECT game, players, (SELECT count(*) FROM matches WHERE series = id) "
                           "FROM series ORDER BY id");
    while (rows.executeStep()) {
      Entry& entry = result.emplace_back();
      entry.game = rows.getColumn(0).getString();
      const auto players = nlohmann::json::parse(rows.getColumn(1).getString(), nullptr, false);
      for (const auto& player : players) {
        if (player.is_string()) entry.players.push_back(player);
      }
      entry.matches = static_cast<std::uint64_t>(rows.getColumn(2).getInt64());
    }
    return result;
  } catch (const SQLite::Exception& error) {
    return fault(file_->path, error.what());
  }
}

Result<std::vector<MatchRecord>> ResultsStore::records() const {
  const std::lock_guard lock(file_->mutex);
  try {
    std::vector<MatchRecord> result;
    SQLite::Statement rows(file_->database, "SELECT lines FROM records ORDER BY series, number");
    while (rows.executeStep()) {
      auto record = record_from_text(rows.getColumn(0).getString());
      if (!record) return record.diagnostics();
      result.push_back(std::move(record).value());
    }
    return result;
  } catch (const SQLite::Exception& error) {
    return fault(file_->path, error.what());
  }
}

Result<StoredSeries> StoredSeries::open(const ResultsStore& store, const std::string& key,
                                        const std::string& game,
                                        const std::vector<std::string>& players) {
  const std::lock_guard lock(store.file_->mutex);
  SQLite::Database& database = store.file_->database;
  try {
    SQLite::Statement add(database,
                          "INSERT OR IGNORE INTO series (key, game, players) VALUES (?, ?, ?)");
    add.bind(1, key);
    add.bind(2, game);
    add.bind(3, json_text(Json(players)));
    add.exec();
    SQLite::Statement find(database, "SELECT id FROM series WHERE key = ?");
    find.bind(1, key);
    find.executeStep();
    return StoredSeries(store, find.getColumn(0).getInt64());
  } catch (const SQLite::Exception& error) {
    return fault(store.file_->path, error.what());
  }
}

Result<std::map<std::uint64_t, PlayedMatch>> StoredSeries::matches() const {
  const std::lock_guard lock(store_.file_->mutex);
  SQLite::Database& database = store_.file_->database;
  try {
    std::map<std::uint64_t, PlayedMatch> result;
    SQLite::Statement rows(
        database,
        "SELECT number, plies, finished, forfeited_by, late FROM matches WHERE series = ?");
    rows.bind(1, id_);
    while (rows.executeStep()) {
      PlayedMatch& match = result[static_cast<std::uint64_t>(rows.getColumn(0).getInt64())];
      match.plies = static_cast<std::uint64_t>(rows.getColumn(1).getInt64());
      match.finished = rows.getColumn(2).getInt() != 0;
      if (!rows.getColumn(3).isNull()) {
        match.forfeited_by = static_cast<std::size_t>(rows.getColumn(3).getInt64());
      }
      match.late = rows.getColumn(4).getInt() != 0;
    }
    SQLite::Statement seats(database,
                            "SELECT number, goal, standing, seconds, choices FROM seats "
                            "WHERE series = ? ORDER BY number, player");
    seats.bind(1, id_);
    while (seats.executeStep()) {
      PlayedMatch& match = result[static_cast<std::uint64_t>(seats.getColumn(0).getInt64())];
      match.goals.push_back(seats.getColumn(1).getDouble());
      match.standings.push_back(standing_named(seats.getColumn(2).getString()));
      match.seconds.push_back(seats.getColumn(3).getDouble());
      match.choices.push_back(static_cast<std::uint64_t>(seats.getColumn(4).getInt64()));
    }
    return result;
  } catch (const SQLite::Exception& error) {
    return fault(store_.file_->path, error.what());
  }
}

Diagnostics StoredSeries::add(std::uint64_t number, const PlayedMatch& match) {
  const std::lock_guard lock(store_.file_->mutex);
  SQLite::Database& database = store_.file_->database;
  Diagnostics faults;
  try {
    SQLite::Transaction transaction(database);
    SQLite::Statement add(database, "INSERT OR REPLACE INTO matches VALUES (?, ?, ?, ?, ?, ?)");
    add.bind(1, id_);
    add.bind(2, static_cast<std::int64_t>(number));
    add.bind(3, static_cast<std::int64_t>(match.plies));
    add.bind(4, match.finished ? 1 : 0);
    if (match.forfeited_by) add.bind(5, static_cast<std::int64_t>(*match.forfeited_by));
    add.bind(6, match.late ? 1 : 0);
    add.exec();
    SQLite::Statement seat(database, "INSERT OR REPLACE INTO seats VALUES (?, ?, ?, ?, ?, ?, ?)");
    for (std::size_t player = 0; player < match.goals.size(); ++player) {
      seat.reset();
      seat.bind(1, id_);
      seat.bind(2, static_cast<std::int64_t>(number));
      seat.bind(3, static_cast<std::int64_t>(player));
      seat.bind(4, match.goals[player]);
      seat.bind(5, std::string(name_of(match.standings[player])));
      seat.bind(6, match.seconds[player]);
      seat.bind(7, static_cast<std::int64_t>(match.choices[player]));
      seat.exec();
    }
    if (!match.record.empty()) {
      SQLite::Statement record(database, "INSERT OR REPLACE INTO records VALUES (?, ?, ?)");
      record.bind(1, id_);
      record.bind(2, static_cast<std::int64_t>(number));
      record.bind(3, match.record);
      record.exec();
    }
    transaction.commit();
  } catch (const SQLite::Exception& error) {
    faults.add(fault(store_.file_->path, error.what()));
  }
  return faults;
}

}  // namespace orchard
