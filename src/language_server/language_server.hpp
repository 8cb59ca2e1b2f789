// A server of the Language Server Protocol (version 3.17) for descriptions and the files beside
// them: what editors know of them, they ask here.
//
// `receive` belongs to one thread. What is sent goes through `send`, which is called on that thread
// and in the background. A message that cannot be understood is answered with an error of the
// protocol; nothing that is sent ends the server but `exit`.
#pragma once

#include <atomic>
#include <functional>
#include <map>
#include <memory>
#include <mutex>
#include <string>

#include "base/json.hpp"
#include "language_server/answers.hpp"
#include "language_server/workspace.hpp"

namespace orchard::language_server {

class LanguageServer {
 public:
  using Send = std::function<void(const Json& message)>;

  LanguageServer(const LoadOptions& limits, Send send);

  // A message as its text.
  void receive(const std::string& text);
  // Whether `exit` came, and whether `shutdown` came before it, as it should.
  bool ended() const { return ended_; }
  bool ended_in_order() const { return shut_down_; }

 private:
  // What a request is answered, or the error {"code", "message"}.
  struct Answer {
    Json result;
    Json error;
  };
  void answer(const Json& id, Answer answer);
  Answer request(const std::string& method, const Json& parameters, const Json& id, bool& later);
  void notify(const std::string& method, const Json& parameters);
  Json initialize(const Json& parameters);
  void change(const Json& parameters);
  Answer ask(const std::string& method, const Json& parameters);
  void run_command(const Json& parameters, const Json& id);
  Answer outcome_of_command(const std::string& command, const std::string& uri,
                            const std::string& name);
  void publish(const std::string& uri);

  const Send send_;
  std::atomic<Units> units_ = Units::utf16;
  bool initialized_ = false;
  bool refreshes_lenses_ = false;
  bool shut_down_ = false;
  bool ended_ = false;
  int asked_ = 0;  // requests of our own, made in the background
  std::mutex published_mutex_;
  std::map<std::string, Json> published_;  // what was told last, by URI
  Workspace workspace_;                    // last: it calls back from its thread
};

}  // namespace orchard::language_server
