"""For every test: no deadline on a made-up example, since a slow machine is no fault of the code,
and thirty examples where a test asks for no number; thousands more are made by make fuzz. What
takes long and has a shorter brother that is run every time waits for make fuzz too.
"""

import pytest
from hypothesis import HealthCheck, settings

settings.register_profile(
    "untimed", deadline=None, max_examples=30, suppress_health_check=[HealthCheck.too_slow]
)
settings.load_profile("untimed")

LONG = (
    "test_a_drag_shops_day",
    "test_by_keyboard_from_an_example_to_a_printed_cut_list",
    "test_from_one_line_to_a_cut_sheet_in_five_acts",
    "test_a_third_pump_and_a_strainer_before_it_stay_true",
    "test_a_measured_hose_is_kept_in_another_layout",
    "test_two_browsers_at_random[8]",
    "test_what_reads_high_is_no_worn_part[strong]",
    "test_the_same_line_gives_the_same_document_on_a_busy_machine_and_off_a_shuffled_shelf",
    "test_text_in_the_vehicle_is_legible_at_every_zoom",
    "test_text_stays_legible_in_other_layouts",
    "test_text_in_drawings_is_legible_in_trouble",
    "test_text_in_drawings_is_legible[tablet]",
    "test_a_fix_works_on_builds_that_nobody_lays_out[7001]",
    "test_the_recommended_one_has_the_least_against_it_and_costs_the_least[curlew]",
    "test_layouts_of_the_demo_brief_are_drawn_and_walked_by_keyboard",
    "test_no_text_of_the_schematic_touches_another[size0]",
    "test_what_reads_high_is_no_worn_part[over]",
    "test_what_reads_high_is_no_worn_part[gauge]",
    "test_a_fault_that_is_switched_on_is_named[volts-2.0]",
    "test_every_demo_build_runs[dunlin]",
    "test_a_fault_that_is_switched_on_is_named[bare-1.0]",
    "test_plate_tube_and_labels_are_printed_at_full_size[Letter]",
    "test_every_demo_build_runs[stonechat]",
    "test_every_demo_build_runs[curlew]",
    "test_every_failure_is_drawn_and_opens_the_circuit[egret]",
    "test_own_words_stay_as_they_were_typed[{x}]",
    "test_no_figure_of_a_demo_moves_unread",
    "test_no_figure_of_an_act_moves_unread[tanks]",
    "test_no_figure_of_an_act_moves_unread[edits]",
    "test_no_figure_of_an_act_moves_unread[wishes]",
    "test_a_fault_that_is_switched_on_is_named[sticks-0.5]",
    "test_a_layout_is_chosen_by_keyboard_and_drawn",
    "test_a_foreign_file_is_asked_about_once_and_replayed_with_a_stop",
    "test_no_page_of_builds_begun_from_lines_speaks_otherwise",
    "test_the_chooser_compares_what_each_study_holds",
    "test_what_reads_high_is_no_worn_part[can]",
    "test_a_cause_is_marked_up_to_a_gap_and_fits_are_told_only_where_they_show[one]",
    "test_what_nothing_clears_says_what_would_have_to_exist",
    "test_four_findings_are_fixed_by_four_presses_each_undone_by_name_and_said_on_paper",
    *(f"test_five_hundred_parts_go_out_and_come_in_as_they_were[{seed}]" for seed in range(4, 10)),
)


# The longest, begun first, so that none is waited for at the end.
FIRST = (
    "test_every_page_fits_and_has_no_accessibility_faults",
    "test_no_page_of_a_demo_speaks_otherwise",
    "test_a_live_run_with_a_fault_is_diagnosed",
)
THIRDS = (
    "test_every_layout_agrees_with_epanet"  # of its many circuits every third is solved each time
)
FEW = {
    "test_a_landmark_lies_where_it_is_typed_and_all_else_fixed_stays": (
        "wagon",
        "rear",
        "motorcycle",
        "pusher",
    )
}


@pytest.hookimpl(tryfirst=True)
def pytest_collection_modifyitems(items: list[pytest.Item]) -> None:
    """Mark what is long as of the sweep."""
    thirds = [item for item in items if item.name.startswith(THIRDS)]
    rest = {item.nodeid for i, item in enumerate(thirds) if i % 3}
    for item in items:
        name, _, which = item.name.rstrip("]").partition("[")
        if (
            item.name in LONG
            or name in LONG
            or item.nodeid in rest
            or which not in FEW.get(name, (which,))
        ):
            item.add_marker(pytest.mark.sweep)
    items.sort(key=lambda item: not item.name.startswith(FIRST))
