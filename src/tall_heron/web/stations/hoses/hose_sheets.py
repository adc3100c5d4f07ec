"""All sheets of the bench and of buying for one build, each made when it is first asked for."""

from dataclasses import dataclass
from functools import cached_property

from tall_heron.core.design import Design
from tall_heron.core.document.build import Build
from tall_heron.core.joining.joints import Joints
from tall_heron.core.routing.laid import Laid
from tall_heron.core.rules.joints import joints_in
from tall_heron.core.rules.route import laid_of
from tall_heron.core.sheets.bend_sheet import BendSheet, make_bend_sheets
from tall_heron.core.sheets.buy_list import BuyList, make_buy_list
from tall_heron.core.sheets.cut_sheet import HoseJob, make_cut_sheet
from tall_heron.core.sheets.job_order import Step, make_job_order
from tall_heron.core.sheets.order_form import Order, highest_met, make_orders
from tall_heron.core.sheets.stages import Stages, compare_stages
from tall_heron.core.sheets.tank_sheet import TankSheet, make_tank_sheets
from tall_heron.core.shelf.supplier import Market
from tall_heron.core.study.derived import derived
from tall_heron.core.study.study import Study
from tall_heron.web import answers


@dataclass
class HoseSheets:
    """The sheets of a build."""

    study: Study
    market: Market

    @property
    def build(self) -> Build:
        """The build."""
        return self.study.build

    @property
    def laid(self) -> Laid:
        """The build in its vehicle."""
        return laid_of(self.study)

    @property
    def joints(self) -> Joints:
        """What joins what."""
        return joints_in(self.study)

    @cached_property
    def rows(self) -> list[HoseJob]:
        """The cut sheet."""
        return make_cut_sheet(self.build, self.laid)

    @cached_property
    def bought(self) -> BuyList:
        """The buy list."""
        return make_buy_list(self.build, self.laid, self.rows, self.joints, self.market)

    @property
    def orders(self) -> list[Order]:
        """Hoses that somebody else can make."""
        return make_orders(self.rows, highest_met(self.study))

    @property
    def bends(self) -> list[BendSheet]:
        """Hard lines."""
        return make_bend_sheets(self.laid)

    @property
    def stages(self) -> Stages:
        """Now and in spring."""
        return compare_stages(self.build, self.bought)

    @property
    def steps(self) -> list[Step]:
        """The work in order."""
        return make_job_order(self.build, self.laid, self.rows, self.bought)

    @property
    def tanks(self) -> list[TankSheet]:
        """The tanks' sheets."""
        return make_tank_sheets(self.build, self.laid, self.joints)


def sheets_of(made: Design) -> HoseSheets:
    """The sheets of a design, kept with its answers for as long as the suppliers say the same."""
    market = answers.market()
    return _sheets.under(made.study, (market.key,), lambda: _sheets.make(made.study, market))


@derived()
def _sheets(study: Study, market: Market) -> HoseSheets:
    return HoseSheets(study, market)
