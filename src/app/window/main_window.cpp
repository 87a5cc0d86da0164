// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/window/main_window.h"
#include "app/desk/text.h"

#include <QApplication>
#include <QCloseEvent>
#include <QCoreApplication>
#include <QFileDialog>
#include <QFileInfo>
#include <QGridLayout>
#include <QSettings>

#include "app/kit/theme.h"
#include "app/plan/plan_tool.h"
#include "core/design/layout.h"

namespace culvert::app {

Notice::Notice(QWidget* parent) : QWidget(parent), label_(new QLabel), row_(new QHBoxLayout(this)) {
    setObjectName("notice");
    row_->setContentsMargins(14, 6, 10, 6);
    label_->setWordWrap(true);
    label_->setTextInteractionFlags(Qt::TextSelectableByMouse);
    row_->addWidget(label_, 1);
    setAttribute(Qt::WA_StyledBackground);
    hide();
}

void Notice::say(const QString& t, std::vector<Choice> choices, bool stays) {
    for (QWidget* b : buttons_) b->deleteLater();
    buttons_.clear();
    if (t.isEmpty()) {
        hide();
        return;
    }
    setStyleSheet(QString("QWidget#notice{background:%1;border-bottom:1px solid %2}")
                      .arg(theme().tint(theme().near, 0.18).name(), theme().near.name()));
    label_->setText(t);
    if (!stays) choices.emplace_back("Close", [] {});
    for (auto& [words, run] : choices) {
        auto* b = new QPushButton(words);
        b->setObjectName("notice-" + words.toLower().replace(' ', '-'));
        connect(b, &QPushButton::clicked, this, [this, run = run] {
            hide();
            run();
        });
        row_->addWidget(b);
        buttons_.push_back(b);
    }
    show();
}

MainWindow::MainWindow(Document& document, QWidget* parent)
    : QWidget(parent), document_(document), actions_(new Actions(this)) {
    setFocusPolicy(Qt::ClickFocus);
    auto* grid = new QGridLayout(this);
    grid->setContentsMargins(0, 0, 0, 0);
    grid->setSpacing(0);
    strip_ = new EventStrip(document_);
    notice_ = new Notice;
    journal_notice_ = new Notice;
    rail_ = new StageRail(document_);
    plan_ = new PlanView(document_);
    space_ = new SpaceView(document_);
    space_->hide();
    profile_ = new ProfileView(document_);
    drawer_ = new Drawer(document_);
    card_ = new Card(document_);
    middle_ = new QSplitter(Qt::Vertical);
    middle_->setHandleWidth(1);
    auto* plans = new QSplitter(Qt::Horizontal);
    plans->setHandleWidth(1);
    plans->addWidget(plan_);
    plans->addWidget(space_);
    side_ = new QWidget;
    auto* side_column = new QVBoxLayout(side_);
    side_column->setContentsMargins(0, 0, 0, 0);
    side_column->setSpacing(0);
    side_title_ = new QLabel;
    side_title_->setContentsMargins(10, 4, 10, 4);
    side_title_->setSizePolicy(QSizePolicy::Preferred, QSizePolicy::Fixed);
    side_column->addWidget(side_title_);
    plans->addWidget(side_);
    side_->hide();
    middle_->addWidget(plans);
    profiles_ = new QStackedWidget;
    street_ = new StreetView(document_);
    section_ = new SectionView(document_);
    rain_ = new RainView(document_);
    storage_ = new StorageView(document_);
    branches_ = new BranchStrip(document_);
    for (QWidget* w : std::initializer_list<QWidget*>{profile_, branches_, street_, section_, rain_, storage_})
        profiles_->addWidget(w);
    middle_->addWidget(profiles_);
    middle_->addWidget(drawer_);
    middle_->setStretchFactor(0, 5);
    middle_->setStretchFactor(1, 3);
    middle_->setStretchFactor(2, 2);
    connect(middle_, &QSplitter::splitterMoved, this, &MainWindow::keep_shares);
    auto* across = new QSplitter(Qt::Horizontal);
    across->setHandleWidth(1);
    across->addWidget(middle_);
    across->addWidget(card_);
    across->setStretchFactor(0, 1);
    across->setStretchFactor(1, 0);
    across->setSizes({880, 312});
    grid->addWidget(strip_, 0, 0, 1, 2);
    grid->addWidget(journal_notice_, 1, 0, 1, 2);
    grid->addWidget(notice_, 2, 0, 1, 2);
    grid->addWidget(rail_, 3, 0);
    grid->addWidget(across, 3, 1);
    grid->setRowStretch(3, 1);
    grid->setColumnStretch(1, 1);
    connect(&document_, &Document::designed, this, [this] { notice_->say({}); });
    declare_actions();
    declare_file_actions();
    declare_site_actions();
    declare_storage_actions();
    declare_menu_actions();
    preferences_ = new PreferencesPanel(drawer_);
    preferences_->hide();
    shortcuts_ = new ShortcutsPanel(*actions_, drawer_);
    shortcuts_->hide();
    connect(preferences_, &PreferencesPanel::looks_changed, this, &MainWindow::looks_changed);
    menu_button_ = new QToolButton(strip_);
    menu_button_->setObjectName("menu-button");
    menu_button_->setAccessibleName("Main menu");
    menu_button_->setToolTip("Main menu (F10)");
    menu_button_->setGeometry(10, 10, 28, 28);
    menu_button_->setIconSize({20, 20});
    menu_button_->setStyleSheet("QToolButton{padding:0}");
    connect(menu_button_, &QToolButton::clicked, this, &MainWindow::open_menu);
    connect(plan_, &PlanView::menu_wanted, this, [this](ElementRef e, QPoint at) { make_context_menu(e)->popup(at); });
    connect(branches_, &BranchStrip::opened, this, [this](ElementRef e) {
        show_strip(false);
        document_.select({e});
    });
    connect(branches_, &BranchStrip::menu_wanted, this,
            [this](ElementRef e, QPoint at) { make_context_menu(e)->popup(at); });
    connect(profile_, &ProfileView::refused, this, [this](const QString& why) { notice_->say(why); });
    connect(profile_, &ProfileView::menu_wanted, this,
            [this](ElementRef e, QPoint at) { make_context_menu(e)->popup(at); });
    // While a run is being graded, what is dragged in the profile is a pin of it.
    profile_->set_taker([this](PipeId pipe, bool start, double level) {
        return drawer_->grade()->active() && drawer_->grade()->drag(pipe, start, level);
    });
    connect(drawer_, &Drawer::menu_wanted, this, [this](ElementRef e, QPoint at) { make_context_menu(e)->popup(at); });
    build_tool_strip();
    command_bar_ = new CommandBar(document_, *actions_, this);
    connect(strip_, &EventStrip::command_bar_wanted, command_bar_, &CommandBar::open);
    connect(command_bar_, &CommandBar::element_chosen, this, [this](ElementRef e) {
        document_.select({e});
        plan_->show_element(e);
    });
    connect(rail_, &StageRail::stage_changed, this, &MainWindow::show_stage);
    connect(plan_, &PlanView::tool_changed, this, &MainWindow::refresh_tool_strip);
    connect(plan_, &PlanView::tool_changed, this, [this] {  // what is drawn is drawn in the plan
        if (!space_->isHidden() && plan_->tool_name() != "select") show_in_space(false);
    });
    connect(plan_, &PlanView::resized, this, &MainWindow::refresh_tool_strip, Qt::QueuedConnection);
    connect(drawer_->preview(), &PreviewBar::finished, this, [this] { plan_->setFocus(); });
    connect(plan_, &PlanView::said, this, [this](const QString& words) { notice_->say(words); });
    connect(plan_, &PlanView::preview_wanted, drawer_->preview(), &PreviewBar::show_preview);
    connect(plan_, &PlanView::pipe_laid, this, [this](PipeId pipe) { offer_alternatives(pipe, false); });
    connect(drawer_->ground(), &GroundPanel::place_wanted, this, [this](QPointF at) { plan_->look_at(at); });
    connect(drawer_->ground(), &GroundPanel::offered, this, [this] { drawer_->show_page(drawer_->ground()); });
    connect(drawer_->history(), &HistoryPanel::save_as_wanted, this, [this](const QString& note) { save_as(note); });
    connect(drawer_->history(), &HistoryPanel::side_by_side_wanted, this, &MainWindow::show_side_by_side);
    connect(drawer_, &Drawer::room_wanted, this, [this](int pixels) {
        QList<int> sizes = middle_->sizes();
        if (sizes.size() != 3 || sizes[2] >= pixels) return;
        // The profile gives way first, then the plan; both stay to be seen.
        int more = pixels - sizes[2];
        const int from_profile = std::min(more, std::max(0, sizes[1] - 186));
        sizes[1] -= from_profile;
        more -= from_profile;
        const int from_plan = std::min(more, std::max(0, sizes[0] - 290));
        sizes[0] -= from_plan;
        sizes[2] += from_plan + from_profile;
        middle_->setSizes(sizes);
    });
    connect(&document_, &Document::file_changed, this, &MainWindow::retitle);
    connect(&document_, &Document::failed, this, [this](const QString& why) {
        notice_->say("Work in the background ended early: " + why +
                     " What you see may be older than your last change.");
    });
    connect(&document_, &Document::journal_changed, this, [this] {
        journal_notice_->say(document_.journal_trouble(), {{"Save now", [this] { save(); }}}, true);
    });
    connect(&document_, &Document::changed, this, [this] {
        retitle();
        actions_->refresh();
    });
    connect(&document_, &Document::selection_changed, this, [this] {
        actions_->refresh();
        const ElementRef e = document_.selected();
        const LowerView lower = stage_spec(rail_->stage()).lower;
        if ((lower == LowerView::Run || lower == LowerView::Street) && e.id &&
            (e.kind == Kind::Street || e.kind == Kind::Structure || e.kind == Kind::Pipe))
            profiles_->setCurrentWidget(lower_for(lower, e));
    });
    plan_->setFocus();
    retitle();
    actions_->refresh();
    setMinimumSize(900, 600);
    resize(1280, 800);
    show_stage(rail_->stage());
}

void MainWindow::build_tool_strip() {
    tool_strip_ = new QWidget(plan_);
    tool_strip_->setObjectName("tool-strip");
    tool_strip_->setAttribute(Qt::WA_StyledBackground);
    auto* row = new QHBoxLayout(tool_strip_);
    row->setContentsMargins(6, 4, 6, 4);
    row->setSpacing(2);
    for (const char* id : {"tool.select", "tool.draw", "tool.structure", "tool.area", "tool.cut", "tool.flow",
                           "tool.cover", "tool.street", "tool.path", "tool.buried", "tool.split", "tool.merge",
                           "tool.reverse", "tool.move", "tool.delete", "tool.trace", "tool.pond", "tool.measure"}) {
        auto* b = new QToolButton;
        b->setDefaultAction(actions_->find(id));
        b->setToolButtonStyle(Qt::ToolButtonTextBesideIcon);
        b->setFocusPolicy(Qt::TabFocus);
        row->addWidget(b);
        tool_buttons_.push_back(b);
    }
    kind_strip_ = new QWidget;
    auto* kinds = new QHBoxLayout(kind_strip_);
    kinds->setContentsMargins(10, 0, 0, 0);
    kinds->setSpacing(2);
    for (const char* id : {"kind.inlet", "kind.manhole", "kind.outfall", "kind.joint", "kind.pond"}) {
        auto* b = new QToolButton;
        b->setDefaultAction(actions_->find(id));
        b->setFocusPolicy(Qt::TabFocus);
        kinds->addWidget(b);
    }
    row->addWidget(kind_strip_);
    colour_by_ = new QComboBox(plan_);
    colour_by_->setAccessibleName("Colour by");
    colour_by_->setToolTip("What the plan's colours mean");
    for (const Colouring& c : colourings()) {
        colour_by_->addItem(c.label, c.key);
        colour_by_->setItemData(colour_by_->count() - 1, c.help, Qt::ToolTipRole);
    }
    connect(colour_by_, &QComboBox::currentIndexChanged, this,
            [this](int i) { choose_colouring(colour_by_->itemData(i).toString()); });
    refresh_tool_strip();
}

void MainWindow::looks_changed() {
    {
        const QSignalBlocker quiet(preferences_->looks());
        preferences_->looks()->setCurrentIndex(theme().dark);
    }
    emit document_.selection_changed();
    plan_->stale();
    refresh_tool_strip();
    update();
}

void MainWindow::refresh_tool_strip() {
    const Theme& t = theme();
    menu_button_->setIcon(QIcon(icon_pixmap("menu", 20, t.ink, devicePixelRatioF())));
    tool_strip_->setStyleSheet(QString("QWidget#tool-strip{background:%1;border:1px solid %2;border-radius:6px}")
                                   .arg(t.panel.name(), t.hairline.name()));
    auto wanted = stage_spec(rail_->stage()).tools;
    if (plan_->tool_name() == "draw" || plan_->tool_name() == "structure")
        wanted = {"select", "draw", "structure", "measure"};
    for (QToolButton* b : tool_buttons_) {
        QAction* a = b->defaultAction();
        const QString name = a->objectName().section('.', 1);
        const bool now = plan_->tool_name() == name;
        a->setCheckable(true);
        a->setChecked(now);
        if (const QPixmap icon = icon_pixmap(name, 18, now ? t.accent : t.ink, devicePixelRatioF()); has_icon(name))
            a->setIcon(QIcon(icon));
        b->setVisible(now || std::find_if(wanted.begin(), wanted.end(), [&](const char* w) { return name == w; }) !=
                                 wanted.end());
    }
    const bool drawing = plan_->tool_name() == "draw" || plan_->tool_name() == "structure";
    kind_strip_->setVisible(drawing);
    if (drawing) {
        constexpr const char* kinds[] = {"kind.inlet", "kind.manhole", "kind.outfall", "kind.joint", "kind.pond"};
        for (std::size_t i = 0; i < std::size(kinds); ++i) {
            actions_->find(kinds[i])->setCheckable(true);
            actions_->find(kinds[i])->setChecked(static_cast<int>(draw_kind(*plan_)) == static_cast<int>(i));
        }
    }
    tool_strip_->adjustSize();
    tool_strip_->move(10, 10);
    colour_by_->adjustSize();
    // Where there is no room beside the tools it stands below them.
    const int left = plan_->width() - colour_by_->width() - 10;
    colour_by_->move(left, tool_strip_->geometry().right() + 8 > left ? tool_strip_->geometry().bottom() + 8 : 12);
}

void MainWindow::resizeEvent(QResizeEvent*) {
    QMetaObject::invokeMethod(this, &MainWindow::refresh_tool_strip, Qt::QueuedConnection);
    if (command_bar_->isVisible()) command_bar_->move(width() / 2 - 290, 52);
}

bool MainWindow::event(QEvent* e) {
    if (e->type() == QEvent::WindowActivate && document_.changed_on_disk() && notice_->isHidden())
        notice_->say("The file was changed on disk since it was opened.",
                     {{"Open it anew", [this] { open_file(document_.path()); }},
                      {"Keep mine", [this] {
                           const QString said = document_.save(document_.path(), true);
                           if (!said.isEmpty()) notice_->say(said);
                       }}});
    return QWidget::event(e);
}

void MainWindow::retitle() {
    const Settings& s = document_.project().settings();
    const QString name =
        s.title.empty() ? (document_.path().isEmpty() ? QString("New project") : QFileInfo(document_.path()).fileName())
                        : text(s.title);
    const Variant* variant = document_.base().variants.find(document_.variant());
    setWindowTitle((document_.modified() ? "• " : "") + name + (variant ? ", " + text(variant->name) : QString()) +
                   " – Calm Culvert");
}

void MainWindow::declare_edit_actions() {
    const auto has_selection = [this] { return document_.selected().id != 0; };
    const auto one_pipe = [this] { return document_.selected().kind == Kind::Pipe && document_.selected().id; };
    actions_->add(
        "edit.undo", "Undo", "Takes back the last change", QKeySequence::Undo, [this] { document_.undo(); },
        [this] { return document_.history().can_undo(); });
    actions_->add(
        "edit.redo", "Redo", "Makes the change again that was taken back", QKeySequence("Ctrl+Y"),
        [this] { document_.redo(); }, [this] { return document_.history().can_redo(); });
    actions_->add(
        "edit.delete", "Delete", "Deletes what is selected and what hangs on it", QKeySequence::Delete,
        [this] { remove_selection(); }, has_selection);
    actions_->add("edit.select_all", "Select all", "Selects all structures and pipes", QKeySequence::SelectAll, [this] {
        std::vector<ElementRef> all;
        for (const Structure& s : document_.project().structures) all.push_back({Kind::Structure, s.id});
        for (const Pipe& p : document_.project().pipes) all.push_back({Kind::Pipe, p.id});
        document_.select(std::move(all));
    });
    actions_->add(
        "edit.reverse", "Reverse the drawn direction",
        "Exchanges the start and the end of a pipe; its water does not mind", {},
        [this] { document_.commit(reverse_pipe(document_.project(), {document_.selected().id})); }, one_pipe);
}

void MainWindow::declare_size_actions() {
    const auto one_pipe = [this] { return document_.selected().kind == Kind::Pipe && document_.selected().id; };
    actions_->add(
        "size.up", "Next larger size", "Steps the selected pipe to the next size of the catalogue", QKeySequence("]"),
        [this] { step_size_of_selection(+1); }, one_pipe);
    actions_->add(
        "size.down", "Next smaller size", "Steps the selected pipe to the size below", QKeySequence("["),
        [this] { step_size_of_selection(-1); }, one_pipe);
    actions_->add(
        "size.propose", "Propose sizes",
        "Finds the smallest sizes that keep the limits in the viewed event, and shows them before they are taken",
        QKeySequence("Ctrl+Shift+P"), [this] { document_.propose_sizes(); },
        [this] { return !document_.project().events.empty() && !document_.project().pipes.empty(); });
    actions_->add(
        "design.propose", "Propose a design",
        "Sizes, slopes and levels of all free pipes that keep every limit in the viewed event, or what prevents it; "
        "shown "
        "before they are taken",
        QKeySequence("F9"),
        [this] {
            notice_->say("Designing …", {{"Stop", [this] {
                                              document_.stop_proposing();
                                              notice_->say({});
                                          }}});
            document_.propose_design();
        },
        [this] { return !document_.project().events.empty() && !document_.project().pipes.empty(); });
    actions_->add(
        "design.mend", "Mend the run",
        "The fewest larger pipes that keep capacity, surcharge, freeboard and flooding of the run in the profile "
        "within "
        "their limits, tried over the whole network and all events",
        QKeySequence("Shift+F9"), [this] { mend_run(); },
        [this] { return !document_.project().events.empty() && !document_.project().pipes.empty(); });
    const auto lock = [this, one_pipe](const char* id, const QString& what, const char* key, bool Pipe::*locked) {
        actions_->add(
            id, "Lock or unlock the " + what, "A locked " + what + " is checked, never proposed", {},
            [this, what, key, locked] {
                const Pipe* p = document_.project().pipes.find(document_.selected().id);
                if (!p) return;
                Editing e(document_.project(), plain((p->*locked ? "Unlock the " : "Lock the ") + what));
                e.set(Kind::Pipe, p->id, key, !(p->*locked));
                document_.commit(e.take());
            },
            one_pipe);
    };
    lock("size.lock", "size", "size_locked", &Pipe::size_locked);
    lock("slope.lock", "slope", "slope_locked", &Pipe::slope_locked);
}

void MainWindow::declare_view_actions() {
    const auto has_selection = [this] { return document_.selected().id != 0; };
    actions_->add(
        "walk.up", "Walk upstream", "Selects the next element upstream", QKeySequence("Alt+Up"),
        [this] {
            document_.walk(true);
            plan_->show_element(document_.selected());
        },
        has_selection);
    actions_->add(
        "walk.down", "Walk downstream", "Selects the next element downstream", QKeySequence("Alt+Down"),
        [this] {
            document_.walk(false);
            plan_->show_element(document_.selected());
        },
        has_selection);
    QAction* strip =
        actions_->add("profile.strip", "Branches side by side",
                      "The run and every branch down to where it joins, at one level scale, in the profile's place",
                      QKeySequence("Shift+F7"), [this] { show_strip(!strip_shown_); });
    strip->setCheckable(true);
    actions_->add("profile.branch", "Show the next branch of the profile",
                  "The next one that joins the run in the profile, from its head on", {},
                  [this] { profile_->show_next_branch(); });
    actions_->add(
        "select.above", "Select what drains here",
        "All structures, pipes and catchments whose water comes here, by pipes, streets and outlets",
        QKeySequence("Ctrl+Shift+Up"), [this] { document_.select_reach(true); }, has_selection);
    actions_->add(
        "select.below", "Select where its water goes",
        "All structures and pipes that its water reaches, by pipes, streets and outlets",
        QKeySequence("Ctrl+Shift+Down"), [this] { document_.select_reach(false); }, has_selection);
    actions_->add("view.all", "Show everything", "Fits the whole plan into view", QKeySequence("Home"),
                  [this] { plan_->zoom_to_all(); });
    actions_->add(
        "view.working", "Show the working", "Takes the selected element's numbers apart, step by step",
        QKeySequence("Ctrl+="),
        [this] { drawer_->show_working(document_.selected().kind == Kind::Structure ? "level" : "flow"); },
        has_selection);
    actions_->add("view.findings", "Show the findings", "Lists what is near or beyond its limit",
                  QKeySequence("Ctrl+1"), [this] {
                      drawer_->tabs()->setCurrentIndex(1);
                      drawer_->findings_table()->setFocus();
                  });
    actions_->add("view.ledger", "Show the ledger", "Lists all elements of a kind", QKeySequence("Ctrl+2"), [this] {
        drawer_->tabs()->setCurrentIndex(0);
        drawer_->ledger()->table()->setFocus();
    });
    actions_->add("view.plan", "Go to the plan", "Gives the keyboard to the plan", QKeySequence("Ctrl+3"),
                  [this] { plan_->setFocus(); });
    actions_->add("view.theme", "Light or dark", "Changes between day paper and night paper",
                  QKeySequence("Ctrl+Shift+D"), [this] {
                      set_theme(!theme().dark);
                      QSettings().setValue("dark", theme().dark);
                      looks_changed();
                  });
    actions_->add("view.find", "Find a command or an element", "Every command and every element by typing",
                  QKeySequence("Ctrl+K"), [this] { command_bar_->open(); });
    actions_->add("view.next_event", "Next event", "Views the next rarer event", QKeySequence("Ctrl+Right"), [this] {
        const auto events = events_in_order(document_.project());
        for (std::size_t i = 0; i + 1 < events.size(); ++i)
            if (events[i]->id == document_.event().value) return document_.set_event({events[i + 1]->id});
    });
    actions_->add("view.previous_event", "Previous event", "Views the next commoner event", QKeySequence("Ctrl+Left"),
                  [this] {
                      const auto events = events_in_order(document_.project());
                      for (std::size_t i = 1; i < events.size(); ++i)
                          if (events[i]->id == document_.event().value) return document_.set_event({events[i - 1]->id});
                  });
    actions_->add("solve.cancel", "Stop solving", "Stops the solve that runs; the last good results stay, dimmed",
                  QKeySequence("Ctrl+."), [this] { document_.cancel_solve(); });
}

void MainWindow::declare_choice_actions() {
    const auto kind = [this](const char* name, const char* words, const char* help, StructureKind k) {
        actions_->add(QString("kind.") + name, words, help, {}, [this, k] {
            set_draw_kind(*plan_, k);
            plan_->setFocus();
        });
    };
    kind("inlet", "Inlet", "The draw tool places an inlet next: key I while drawing", StructureKind::Inlet);
    kind("manhole", "Manhole", "The draw tool places a manhole next: key M while drawing", StructureKind::Manhole);
    kind("outfall", "Outfall", "The draw tool places an outfall next, and ends the chain: key O while drawing",
         StructureKind::Outfall);
    kind("joint", "Inline joint", "The draw tool places an inline joint next: key J while drawing",
         StructureKind::Joint);
    kind("pond", "Pond", "The draw tool places a pond next, and ends the chain: key B while drawing",
         StructureKind::Pond);
    for (const Colouring& c : colourings())
        actions_->add("colour." + c.key, "Colour by " + c.in_words(), c.help, {},
                      [this, key = c.key] { choose_colouring(key); });
    for (const StageSpec& stage : stages())
        actions_->add(QString("stage.") + QString(stage.name).toLower(), QString("Stage: ") + stage.name,
                      QString(stage.help) + ": tools, colours, views and ledger for that part of the job", {},
                      [this, s = stage.stage] { rail_->set_stage(s); });
    actions_->add("view.whole", "Give one view the whole window",
                  "The view that has the keyboard takes all the room, and gives it back", QKeySequence("F11"),
                  [this] { give_whole(); });
    actions_->add("rain.paste", "Paste a rain table",
                  "Reads durations down the side and return periods along the top from the clipboard", {}, [this] {
                      rail_->set_stage(Stage::Rain);
                      drawer_->ledger()->findChild<QPushButton*>("paste-rain")->click();
                  });
    actions_->add("units.switch", "Switch units",
                  "Shows and stores the project in US customary or SI units; no value changes", {}, [this] {
                      Editing e(document_.project(), "Switch units");
                      e.set(Kind::Settings, settings_id, "system",
                            document_.project().settings().system == UnitSystem::Si ? UnitSystem::Us : UnitSystem::Si);
                      document_.commit(e.take());
                  });
}

void MainWindow::declare_actions() {
    declare_edit_actions();
    declare_size_actions();
    declare_view_actions();
    declare_choice_actions();
}

void MainWindow::step_size_of_selection(int step) {
    const PipeId pipe{document_.selected().id};
    const Edit edit = step_size(document_.project(), pipe, step);
    if (edit.empty()) {
        const Pipe* p = document_.project().pipes.find(pipe.value);
        notice_->say(p && p->size_locked ? "The size of this pipe is locked."
                                         : QString("The catalogue has no %1 size of this material and shape.")
                                               .arg(step > 0 ? "larger" : "smaller"));
        return;
    }
    document_.commit(edit);
}

void MainWindow::remove_selection() {
    const auto& selection = document_.selection();
    Editing e(document_.project(),
              selection.size() == 1 ? "Delete " + element_name(document_.project(), selection[0].kind, selection[0].id)
                                    : "Delete " + std::to_string(selection.size()) + " elements");
    for (const ElementRef s : selection) e.remove(s.kind, s.id);
    document_.commit(e.take());
}

}  // namespace culvert::app
