"""The cuts that the shop's pieces give, beside what it sells already."""

from dataclasses import dataclass, field

from rooms.catalog.models import Cut, Piece, Pile, PlanOutput, Species
from rooms.pricebook.models import Product

BY_PRODUCTS = (Pile.FAT, Pile.BONE, Pile.LEAN)


@dataclass(frozen=True)
class CutLine:
    """One cut: `is_by_product` where a plan counts it as fat, bone or trim."""

    cut: Cut
    product: Product | None
    is_by_product: bool


@dataclass
class PieceLines:
    """The cuts of one piece that no piece before it gives."""

    piece: Piece
    lines: list[CutLine] = field(default_factory=list)


@dataclass(frozen=True)
class FirstList:
    """One animal's table. `is_of_all`: no piece is ticked as bought, so all of them are here."""

    species: str
    pieces: list[PieceLines]
    is_of_all: bool

    @property
    def new(self) -> list[Cut]:
        return [line.cut for one in self.pieces for line in one.lines if line.product is None]


def first_list(species: str) -> FirstList:
    """Five queries. An unknown animal is beef."""
    species = species if species in Species.values else str(Species.BEEF)
    pieces = list(Piece.objects.filter(species=species))
    ours = [piece for piece in pieces if piece.is_bought]
    is_of_all = not Piece.objects.filter(is_bought=True).exists()
    wanted = pieces if is_of_all else ours
    outputs = list(
        PlanOutput.objects.filter(
            plan__piece__in=wanted, plan__is_dropped=False, cut__isnull=False, cut__is_dropped=False
        )
        .select_related("cut", "plan")
        .order_by("plan__position", "plan_id", "position")
    )
    products = {row.cut_id: row for row in Product.objects.filter(cut__species=species)}
    groups = {piece.pk: PieceLines(piece) for piece in wanted}
    seen: set[int] = set()
    for piece in wanted:
        for output in (one for one in outputs if one.plan.piece_id == piece.pk):
            if output.cut_id not in seen:
                seen.add(output.cut_id)
                is_by_product = output.pile in BY_PRODUCTS and not output.in_case
                line = CutLine(output.cut, products.get(output.cut_id), is_by_product)
                groups[piece.pk].lines.append(line)
    return FirstList(species, [one for one in groups.values() if one.lines], is_of_all)
