// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/desk/document.h"
#include "app/desk/text.h"

#include <QFileInfo>
#include <algorithm>
#include <chrono>

#include "core/analysis/way_flows.h"
#include "core/base/words.h"
#include "exchange/content_hash.h"

namespace culvert::app {
namespace {

constexpr int dim_after_ms = 150;

/// Sleeps in short steps so that a stop is heeded.
bool wait_for(int ms, const std::stop_token& stop) {
    for (int waited = 0; waited < ms && !stop.stop_requested(); waited += 2)
        std::this_thread::sleep_for(std::chrono::milliseconds(2));
    return !stop.stop_requested();
}

bool same_words(const std::vector<Finding>& a, const std::vector<Finding>& b) {
    return std::equal(a.begin(), a.end(), b.begin(), b.end(), [](const Finding& x, const Finding& y) {
        return x.element == y.element && x.title == y.title && x.detail == y.detail && x.remedy == y.remedy;
    });
}

}  // namespace

Document::Document(QObject* parent, std::shared_ptr<AssetStore> assets)
    : QObject(parent),
      assets_(assets ? std::move(assets) : std::make_shared<AssetStore>()),
      shares_assets_(assets_.use_count() > 1) {
    age_.setSingleShot(true);
    age_.setInterval(dim_after_ms);
    connect(&age_, &QTimer::timeout, this, [this] {
        dimmed_ = !current();
        if (dimmed_) emit age_changed();
    });
    connect(&advice_, &Advice::changed, this, &Document::advice_changed);
    connect(&advice_, &Advice::proposed, this, &Document::proposed);
    connect(&advice_, &Advice::designed, this, &Document::designed);
    connect(&site_, &Site::changed, this, [this] {
        check_site();
        emit site_changed();
    });
    crossing_.setSingleShot(true);
    crossing_.setInterval(60);
    connect(&crossing_, &QTimer::timeout, this, &Document::seek_clashes);
    tying_.setSingleShot(true);
    tying_.setInterval(150);
    connect(&tying_, &QTimer::timeout, this, &Document::seek_stale_ties);
    set_project(new_project(UnitSystem::Si));
}

Document::~Document() = default;

void Document::touched(const ChangeSet& what) {
    ++revision_;
    advice_.forget();
    const bool gone = selection_.drop_missing(project_);
    if (!project_.events.find(event_.value)) {
        const RainEvent* design = design_event(project_);
        event_ = {design ? design->id : 0};
        emit event_changed();
    }
    store_.drop_missing(project_);
    solve();
    site_.update(project_);
    check_outlines();
    check_crossings();
    check_ties();
    emit changed(what);
    if (gone) emit selection_changed();
}

void Document::set_pending(Edit edit) {
    if (pending_.empty()) base_ = project_;
    project_ = base_;
    ChangeSet what = pending_touched_;  // what the one before it had changed goes back
    pending_ = std::move(edit);
    pending_touched_ = ChangeSet::of(pending_);
    what |= pending_touched_;
    apply(project_, pending_);
    touched(what);
}
void Document::commit_pending() {
    if (pending_.empty()) return;
    Edit edit = std::move(pending_);
    pending_ = {};
    pending_touched_ = {};
    project_ = std::move(base_);
    base_ = {};
    commit(std::move(edit));
}
void Document::cancel_pending() {
    if (pending_.empty()) return;
    pending_ = {};
    project_ = base_;
    touched(std::exchange(pending_touched_, {}));
}

void Document::solve() {
    if (!age_.isActive()) age_.start();
    worker_.run([this, project = project_, revision = revision_, first = event_, solver = solver_, delay = solve_delay_,
                 outdated = store_.replaced()](const Turn& turn) mutable {
        const std::stop_token& stop = turn.stop;
        outdated.clear();
        if (!wait_for(delay, stop)) return;
        const auto begin = std::chrono::steady_clock::now();
        const auto tell_data = [&](std::shared_ptr<const Network> network) {
            auto data = culvert::data_findings(project, *network);
            turn.tell([this, network = std::move(network), data = std::move(data), revision]() mutable {
                if (revision != revision_) return;
                store_.network = std::move(network);
                network_findings_ = std::move(data);
                const std::vector<Finding> before = data_findings_;
                gather_findings();
                const bool news = !same_words(before, data_findings_);
                if (project_.events.empty()) {
                    dimmed_ = false;
                    age_.stop();
                }
                if (news || project_.events.empty()) emit results_changed({project_.events.empty(), false, news});
            });
        };
        if (project.events.empty()) tell_data(std::make_shared<const Network>(compile(project)));
        bool data_told = project.events.empty();
        // The viewed event first, then the faults of the data, then the other events.
        solver->solve(project, revision, first, stop, [&](std::shared_ptr<const EventResult> result) {
            std::shared_ptr<const Network> network = result->network;
            auto review = std::make_shared<const Review>(culvert::review(project, *result));
            turn.tell([this, solved = Solved{std::move(result), std::move(review)}, revision]() mutable {
                take(std::move(solved), revision);
            });
            if (!data_told) tell_data(std::move(network));
            data_told = true;
        });
        if (stop.stop_requested()) return;
        const double ms = std::chrono::duration<double, std::milli>(std::chrono::steady_clock::now() - begin).count();
        turn.tell([this, ms, revision] {
            if (revision != revision_) return;
            solve_ms_ = ms;
            advice_.later();
            emit results_changed({false, true, false});
        });
    });
}

void Document::take(Solved solved, std::uint64_t revision) {
    if (revision != revision_) return;  // outdated: the last good results stay until newer ones come
    const EventId event = solved.result->event;
    store_.take(std::move(solved));
    if (event == event_) {
        age_.stop();
        if (dimmed_) {
            dimmed_ = false;
            emit age_changed();
        }
        emit results_changed({true, false, false});
    }
}

void Document::cancel_solve() { worker_.cancel(); }

bool Document::current() const {
    if (project_.events.empty()) return true;
    const auto r = result();
    return r && r->revision == revision_;
}

Advice::Basis Document::basis() const {
    return {project_, all_results(), review(), clash_findings_, event_, selected(), revision_};
}

void Document::set_event(EventId event) {
    if (event == event_ || !project_.events.find(event.value)) return;
    event_ = event;
    advice_.turn();
    emit event_changed();
    emit results_changed({true, false, false});
}

void Document::select(std::vector<ElementRef> elements) {
    if (!selection_.set(std::move(elements))) return;
    advice_.turn();
    emit selection_changed();
}

void Document::walk(bool upstream) {
    const auto network = store_.network;
    if (!network) return;
    const ElementRef from = selected();
    const int node = network->node_of(from);
    if (node == no_node) return;
    if (from.kind == Kind::Pipe) {
        const Link& l = network->links[static_cast<std::size_t>(network->link_of(PipeId{from.id}))];
        select({{Kind::Structure, network->nodes[static_cast<std::size_t>(upstream ? l.from : l.to)].structure.value}});
        return;
    }
    // Downstream by the main way, upstream by the pipe that brings most; else by what leads on beside pipes.
    int way = no_link;
    const auto r = result();
    const auto flow = [&](int k) {
        return r && r->links.size() == network->links.size() ? r->links[static_cast<std::size_t>(k)].flow.flow : 0;
    };
    if (!upstream) way = network->nodes[static_cast<std::size_t>(node)].out;
    else
        for (int i = 0; i < static_cast<int>(network->links.size()); ++i)
            if (network->links[static_cast<std::size_t>(i)].to == node && (way == no_link || flow(i) > flow(way)))
                way = i;
    if (way != no_link) return select({{Kind::Pipe, network->links[static_cast<std::size_t>(way)].pipe.value}});
    int next = no_node;
    double most = -1;
    const auto look = [&](const Way& w) {
        const int other = upstream ? w.from : w.to;
        const double runs = r && r->network == network ? std::abs(flow_of(*r, w).flow) : 0;
        if (other != no_node && (runs > most || next == no_node)) most = runs, next = other;
    };
    for (const Way& w : upstream ? ways_into(*network, node) : ways_out_of(*network, node)) look(w);
    if (next != no_node) select({{Kind::Structure, network->nodes[static_cast<std::size_t>(next)].structure.value}});
}

void Document::select_reach(bool above) {
    const auto network = store_.network;
    if (!network) return;
    ElementRef from = selected();
    if (from.kind == Kind::Catchment)
        if (const Catchment* c = project_.catchments.find(from.id))
            from = {Kind::Structure, target_of(project_, *c).value};
    int node = network->node_of(from);
    if (from.kind == Kind::Pipe && !above)
        if (const int l = network->link_of(PipeId{from.id}); l != no_link)
            node = network->links[static_cast<std::size_t>(l)].to;
    if (node == no_node) return;
    const Ways ways(*network);
    std::vector<char> in(network->nodes.size(), 0);
    std::vector<ElementRef> all{selected()};
    const auto add = [&](ElementRef e) {
        if (!(e == all.front())) all.push_back(e);
    };
    for (const int i : above ? ways.above(node) : ways.below(node)) {
        in[static_cast<std::size_t>(i)] = 1;
        add({Kind::Structure, network->nodes[static_cast<std::size_t>(i)].structure.value});
    }
    for (const Link& l : network->links)
        if (in[static_cast<std::size_t>(l.from)] && in[static_cast<std::size_t>(l.to)]) add({Kind::Pipe, l.pipe.value});
    if (above)
        for (const Catchment& c : project_.catchments)
            if (const int at = network->node_of(target_of(project_, c));
                at != no_node && in[static_cast<std::size_t>(at)])
                add({Kind::Catchment, c.id});
    select(std::move(all));
}

void Document::set_project(Project project, const QString& path, bool lock) {
    pending_ = {};
    pending_touched_ = {};
    ++generation_;
    project_ = std::move(project);
    root_ = project_;
    variant_ = 0;
    conflicts_.clear();
    history_.clear();
    saved_position_ = 0;
    edits_lost_ = saving_lost_ = false;
    saving_.reset();
    selection_.clear();
    store_.clear();
    data_findings_.clear();
    network_findings_.clear();
    outline_findings_.clear();
    site_findings_.clear();
    outlined_ = {};
    outliner_.cancel();
    crosser_.cancel();
    tier_.cancel();
    tie_findings_.clear();
    tied_ = {};
    clash_findings_.clear();
    clashes_.clear();
    crossed_ = {};
    advice_.look_away();
    solver_ = std::make_shared<Solver>();
    path_ = path;
    lock_.release();
    lock_holder_ = path.isEmpty() || !lock ? QString() : text(lock_.take(plain(path)));
    stamp_ = path.isEmpty() ? FileStamp{} : stamp_of(plain(path));
    if (!shares_assets_) assets_->set_project(plain(path));
    start_journal();
    event_ = {};
    touched(ChangeSet::everything());
    emit selection_changed();
    emit event_changed();
    emit file_changed();
}

Document::Opened Document::read_file(const QString& path) {
    Opened o{path, stamp_of(plain(path)), {}};
    o.read = load_project(plain(path));
    return o;
}

QString Document::open(const QString& path, bool lock) { return take_file(read_file(path), lock); }

void Document::open_later(const QString& path, bool lock, Done done) {
    opener_.run([this, path, lock, done = std::move(done)](const Turn& turn) {
        auto opened = std::make_shared<Opened>(read_file(path));
        turn.tell([this, opened, lock, done] { done(take_file(std::move(*opened), lock)); });
    });
}

QString Document::take_file(Opened opened, bool lock) {
    const QString path = opened.path;
    ReadOutcome& read = opened.read;
    QString said;
    for (const ReadProblem& p : read.problems) {
        QString where = QFileInfo(path).fileName();
        if (p.line > 0) where += QString(", line %1").arg(p.line);
        if (p.column > 0) where += QString(", column %1").arg(p.column);
        said += (said.isEmpty() ? "" : "\n") + where + ": " + text(sentences(p.message, p.remedy));
        if (said.size() > 1200) break;
    }
    if (read.ok) {
        set_project(std::move(read.project), path, lock);
        stamp_ = opened.stamp;
        if (!lock_holder_.isEmpty())
            said += (said.isEmpty() ? "" : "\n") + QString(
                                                       "This project is open elsewhere (%1): save under another name, "
                                                       "or your changes and theirs overwrite each other.")
                                                       .arg(lock_holder_);
    }
    return said;
}

bool Document::changed_on_disk() const {
    if (path_.isEmpty() || !stamp_.exists) return false;
    const FileStamp now = stamp_of(plain(path_));
    return now.exists && now != stamp_;
}

bool Document::is_large() const {
    return root_.structures.size() + root_.pipes.size() + root_.catchments.size() > 6000;
}

QString Document::may_not_save(const QString& path, bool overwrite_changed) const {
    if (path == path_ && changed_on_disk() && !overwrite_changed)
        return "The file was changed on disk since it was opened. Save under another name, or choose \"Save over the "
               "changed file\".";
    return {};
}

namespace {
/// Assets first, then the project: a file never names what is not there.
QString write_file(AssetStore& assets, const Project& root, const std::string& path) {
    if (const std::string fault = assets.save(root, path); !fault.empty())
        return text(sentences("Not saved: " + fault));
    const SaveOutcome outcome = save_project(root, path);
    return outcome.ok ? QString() : text(sentences("Not saved: " + outcome.error));
}
}  // namespace

QString Document::save(const QString& path, bool overwrite_changed) {
    cancel_pending();
    if (const QString why = may_not_save(path, overwrite_changed); !why.isEmpty()) return why;
    if (journal_ && path == path_) journal_->saving(content_hash(write_project(root_)));
    if (const QString why = write_file(*assets_, root_, plain(path)); !why.isEmpty()) return why;
    saved(path, history_.position());
    return {};
}

void Document::save_later(const QString& path, bool overwrite_changed, Done done) {
    cancel_pending();
    if (const QString why = may_not_save(path, overwrite_changed); !why.isEmpty()) return done(why);
    saving_ = history_.position();
    saving_lost_ = false;
    // The journal hears of what will stand in the file before it stands there.
    saver_.run([this, path, root = root_, position = history_.position(), generation = generation_, assets = assets_,
                done = std::move(done)](const Turn& turn) {
        const std::string hash = content_hash(write_project(root));
        turn.tell([this, path, root, position, generation, assets, done, hash] {
            const bool here = generation == generation_;
            if (here && journal_ && path == path_) journal_->saving(hash);
            saver_.run([this, path, root, position, generation, assets, done](const Turn& second) {
                const QString why = write_file(*assets, root, plain(path));
                second.tell([this, path, position, generation, done, why] {
                    if (generation == generation_ && why.isEmpty()) saved(path, position);
                    else if (generation == generation_) saving_.reset();
                    done(why);
                });
            });
        });
    });
}

void Document::saved(const QString& path, std::size_t position) {
    if (path != path_) {
        path_ = path;
        lock_holder_ = text(lock_.take(plain(path)));
    }
    stamp_ = stamp_of(plain(path));
    saved_position_ = position;
    edits_lost_ = std::exchange(saving_lost_, false);
    saving_.reset();
    start_journal();
    emit file_changed();
}

}  // namespace culvert::app
