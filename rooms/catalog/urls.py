from django.urls import path

from rooms.catalog.views import bought, changes, cuts, files, guides, pieces, plans, steps

app_name = "catalog"
urlpatterns = [
    path("", guides.animals, name="animals"),
    path("bought/", bought.bought, name="bought"),
    path("same-map/", guides.same_map, name="same_map"),
    path("find/", guides.finding, name="find"),
    path("find/list/", guides.found_list, name="found"),
    path("new/", pieces.new_piece, name="new_piece"),
    path("changes/", changes.changes, name="all_changes"),
    path("files/", files.files, name="files"),
    path("files/catalog.json", files.export_json, name="export_json"),
    path("files/<slug:table>.csv", files.export_csv, name="export_csv"),
    path("cuts/new/", cuts.edit_cut, {"key": "new"}, name="new_cut"),
    path("cuts/<slug:key>/edit/", cuts.edit_cut, name="edit_cut"),
    path("cuts/<slug:key>/preview/", cuts.preview_cut, name="preview_cut"),
    path("cuts/", guides.cuts, name="cuts"),
    path("cuts/<slug:key>/", guides.cut, name="cut"),
    path("muscles/<slug:key>/", guides.muscle, name="muscle"),
    path("<slug:key>/", guides.guide_page, name="guide"),
    path("<slug:key>/steps/", guides.guide_steps, name="steps"),
    path("<slug:key>/handout/", guides.handout, name="handout"),
    path("<slug:key>/changes/", changes.piece_changes, name="changes"),
    path("<slug:key>/edit/", pieces.edit_piece, name="edit"),
    path("<slug:key>/edit/preview/", pieces.preview_piece, name="preview"),
    path("<slug:key>/edit/out/", pieces.drop_piece, name="drop"),
    path("<slug:key>/steps/<slug:step>/edit/", steps.edit_step, name="edit_step"),
    path("<slug:key>/steps/<slug:step>/preview/", steps.preview_step, name="preview_step"),
    path("<slug:key>/steps/<slug:step>/move/", steps.move_step, name="move_step"),
    path("<slug:key>/plans/<slug:plan>/edit/", plans.edit_plan, name="edit_plan"),
    path("<slug:key>/plans/<slug:plan>/preview/", plans.preview_plan, name="preview_plan"),
    path("<slug:key>/plans/<slug:plan>/out/", plans.drop_plan, name="drop_plan"),
]
