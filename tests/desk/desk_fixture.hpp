// The desk as a page asks it: over HTTP, from a thread of its own, on files of its own.
#pragma once

#include <gtest/gtest.h>
#include <httplib.h>

#include <chrono>
#include <memory>
#include <string>
#include <thread>

#include "desk/server.hpp"
#include "support/files.hpp"

namespace orchard::desk {

// Of a game of two.
inline Json ply(const std::string& east, const std::string& west) {
  return {{"east", east}, {"west", west}};
}

class DeskTest : public ::testing::Test {
 protected:
  DeskTest() : desk_(folder_.path("own.gdl"), LoadOptions{}), server_(desk_) {
    EXPECT_TRUE(server_.listen_on(0).empty());
    address_ = server_.address();
    const std::size_t host = address_.find("//") + 2;
    const std::size_t slash = address_.find('/', host);
    path_ = address_.substr(slash);
    client_ = std::make_unique<httplib::Client>(address_.substr(0, slash));
    client_->set_tcp_nodelay(true);
    client_->set_read_timeout(60);
    runs_ = std::jthread([this](const std::stop_token& stop) { server_.run(stop); });
  }
  ~DeskTest() override {
    runs_.request_stop();
    runs_.join();
  }

  Json ask(const std::string& verb, const Json& request = Json::object()) {
    const auto answer = client_->Post(path_ + "ask/" + verb, request.dump(), "application/json");
    EXPECT_TRUE(answer && answer->status == 200) << verb;
    return answer ? Json::parse(answer->body) : Json();
  }
  Json game(const std::string& name) const {
    return {{"rules", testing::read_file(testing::game_path(name))}};
  }
  Json small_espalier() const {
    Json request = game("espalier");
    request["sizes"] = {{"rows", 3}, {"columns", 3}};
    return request;
  }
  // Waits for what was begun.
  Json result_of(const std::string& what) {
    for (int i = 0; i < 600; ++i) {
      const Json answer = ask("work", {{"page", "one"}, {"what", what}});
      if (answer["state"] == "done") return answer["result"];
      std::this_thread::sleep_for(std::chrono::milliseconds(50));
    }
    return {};
  }

  testing::TemporaryFolder folder_;
  Desk desk_;
  Server server_;
  std::string address_;
  std::string path_;
  std::unique_ptr<httplib::Client> client_;
  std::jthread runs_;
};

}  // namespace orchard::desk
