// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <QHBoxLayout>
#include <QLabel>
#include <QMenu>
#include <QSplitter>
#include <QStackedWidget>
#include <QToolButton>
#include <QWidget>

#include "app/card/card.h"
#include "app/charts/rain_view.h"
#include "app/charts/storage_view.h"
#include "app/desk/document.h"
#include "app/kit/actions.h"
#include "app/panels/preferences_panel.h"
#include "app/plan/plan_view.h"
#include "app/plan/space_view.h"
#include "app/profile/branch_strip.h"
#include "app/profile/profile_view.h"
#include "app/profile/section_view.h"
#include "app/profile/street_view.h"
#include "app/window/command_bar.h"
#include "app/window/drawer.h"
#include "app/window/stages.h"
#include "app/window/strips.h"

namespace culvert::app {

/// Says what happened and offers what can be done about it, without stopping the work.
class Notice : public QWidget {
    Q_OBJECT
  public:
    explicit Notice(QWidget* parent = nullptr);
    using Choice = std::pair<QString, std::function<void()>>;
    /// @param stays  it cannot be closed: it goes when what it says is over
    void say(const QString& text, std::vector<Choice> choices = {}, bool stays = false);
    [[nodiscard]] QString said() const { return isHidden() ? QString() : label_->text(); }

  private:
    QLabel* label_;
    QHBoxLayout* row_;
    std::vector<QWidget*> buttons_;
};

class MainWindow : public QWidget {
    Q_OBJECT
  public:
    /// The window shows a document that is given to it; two windows can show two.
    explicit MainWindow(Document& document, QWidget* parent = nullptr);

    [[nodiscard]] Document& document() { return document_; }
    [[nodiscard]] Actions& actions() { return *actions_; }
    [[nodiscard]] PlanView* plan() const { return plan_; }
    [[nodiscard]] ProfileView* profile() const { return profile_; }
    [[nodiscard]] StreetView* street() const { return street_; }
    [[nodiscard]] SectionView* section() const { return section_; }
    [[nodiscard]] RainView* rain() const { return rain_; }
    [[nodiscard]] StorageView* storage() const { return storage_; }
    [[nodiscard]] BranchStrip* branches() const { return branches_; }
    /// The run's profile, or all branches side by side in its place.
    void show_strip(bool on);
    [[nodiscard]] QWidget* run_view() const;
    [[nodiscard]] PreferencesPanel* preferences() const { return preferences_; }
    [[nodiscard]] ShortcutsPanel* shortcuts() const { return shortcuts_; }
    /// Menus as they would open: the caller shows them.
    QMenu* make_menu();
    QMenu* make_context_menu(ElementRef element);
    [[nodiscard]] QStackedWidget* lower() const { return profiles_; }
    [[nodiscard]] QSplitter* middle() const { return middle_; }
    [[nodiscard]] Card* card() const { return card_; }
    [[nodiscard]] Drawer* drawer() const { return drawer_; }
    [[nodiscard]] StageRail* rail() const { return rail_; }
    [[nodiscard]] EventStrip* strip() const { return strip_; }
    [[nodiscard]] CommandBar* command_bar() const { return command_bar_; }
    [[nodiscard]] Notice* notice() const { return notice_; }

    [[nodiscard]] SpaceView* space() const { return space_; }
    void open_file(const QString& path);
    /// Writes the profile shown, beside the work; the notice says how it went.
    void save_profile_as(const QString& path);
    void save_plan_as(const QString& path);
    /// Offers back what programs that ended early left of this project (or of all projects, where the path is empty),
    /// one after another.
    /// @param first  what is to be said above the offer
    void offer_recovery(const QString& path, const QString& first = {});
    /// Reads a file of the ground or of a background and shows what it offers.
    void import_file(const QString& path);
    /// Another state of the project beside the present one; none where it is off.
    [[nodiscard]] PlanView* side_plan() const { return side_plan_; }
    void show_side_by_side(std::uint64_t variant);
    /// Writes the project, a large one off the interface thread; `then` runs once it is on the disk.
    bool save_to(const QString& path, std::function<void()> then = {});
    static QStringList recent_files();
    static QString example(const QString& name);
    static bool is_example(const QString& path);

  protected:
    void closeEvent(QCloseEvent*) override;
    void resizeEvent(QResizeEvent*) override;
    bool event(QEvent*) override;

  private:
    void declare_actions();
    void declare_edit_actions();
    void declare_size_actions();
    void declare_view_actions();
    void declare_choice_actions();
    void declare_storage_actions();
    void declare_file_actions();
    void declare_site_actions();
    void declare_tools();
    void declare_ground_actions();
    void declare_street_actions();
    void declare_area_actions();
    void declare_level_actions();
    void declare_page_actions();
    [[nodiscard]] bool has_inlets() const;
    void declare_menu_actions();
    void open_menu();
    void show_extra_page(QWidget* page, const QString& title);
    void looks_changed();
    void run_proposal(const QString& what, std::function<std::pair<QString, Edit>(const std::stop_token&)> find);

    void offer_alternatives(PipeId pipe, bool asked);
    void grade_selection();
    void mend_run();
    void follow_the_ties();
    void show_in_space(bool on);
    void propose_pipes();
    void save_profile();
    void save_plan();
    void build_tool_strip();
    void refresh_tool_strip();
    void retitle();
    /// Turns every part of the window to a stage; the user's own colours and shares of room in it come back.
    void show_stage(Stage stage);
    void choose_colouring(const QString& key);
    void keep_shares();

  public:
    /// Offers the land covers of a GeoJSON file as a preview.
    void cut_cover_layer(const QString& path);
    /// Offers the lines of a CSV, GeoJSON or DXF file as a preview.
    void import_buried_lines(const QString& path);
    /// Offers what an outfall meets in each event: the grade line of another project.
    /// The street that is chosen, that of the chosen inlet, or the only one; null: none.
    [[nodiscard]] const Street* chosen_street() const;
    void propose_the_ditch(bool right);
    void take_outer_levels(StructureId outfall, const QString& path);
    void take_levels_at(StructureId outfall, std::shared_ptr<const struct ReadOutcome> read, StructureId there,
                        const QString& file);

  private:
    [[nodiscard]] QWidget* lower_for(LowerView lower, ElementRef element) const;
    void give_whole();
    void step_size_of_selection(int step);
    void remove_selection();
    void save(std::function<void()> then = {});
    void save_as(const QString& note = {}, std::function<void()> then = {});
    bool saved_or_said(const QString& path, const QString& said);
    /// Runs `then` at once, or after asking what to do with unsaved changes.
    void when_safe(const QString& what, std::function<void()> then);
    void remember(const QString& path);

    Document& document_;
    Actions* actions_;
    EventStrip* strip_;
    StageRail* rail_;
    Notice *notice_, *journal_notice_;
    PlanView* plan_;
    SpaceView* space_;
    ProfileView* profile_;
    StreetView* street_;
    SectionView* section_;
    RainView* rain_;
    StorageView* storage_;
    BranchStrip* branches_;
    bool strip_shown_ = false;
    QStackedWidget* profiles_;  ///< the lower view: run, street, ground section, rain
    std::map<Stage, PlanTheme> plan_themes_;
    std::map<Stage, QList<int>> shares_;
    std::optional<Stage> shown_stage_;
    QList<int> before_whole_;
    Drawer* drawer_;
    Card* card_;
    CommandBar* command_bar_;
    PreferencesPanel* preferences_;
    ShortcutsPanel* shortcuts_;
    QToolButton* menu_button_;
    QSplitter* middle_;
    QWidget* tool_strip_;
    QWidget* kind_strip_;
    QComboBox* colour_by_;
    QWidget* side_ = nullptr;
    QLabel* side_title_ = nullptr;
    PlanView* side_plan_ = nullptr;
    std::unique_ptr<Document> side_document_;
    std::vector<QToolButton*> tool_buttons_;
    bool close_anyway_ = false;
    Task proposer_{this}, reader_{this}, writer_{this, [this](const QString&why) { notice_->say(why); }};
};

}  // namespace culvert::app
