from django.urls import path

from rooms.catalog.views import editing, files, guides

app_name = "catalog"
urlpatterns = [
    path("", guides.animals, name="animals"),
    path("same-map/", guides.same_map, name="same_map"),
    path("find/", guides.finding, name="find"),
    path("find/list/", guides.found_list, name="found"),
    path("new/", editing.new_piece, name="new_piece"),
    path("changes/", editing.changes, name="all_changes"),
    path("files/", files.files, name="files"),
    path("files/catalog.json", files.export_json, name="export_json"),
    path("files/<slug:table>.csv", files.export_csv, name="export_csv"),
    path("cuts/new/", editing.edit_cut, {"key": "new"}, name="new_cut"),
    path("cuts/<slug:key>/edit/", editing.edit_cut, name="edit_cut"),
    path("cuts/<slug:key>/preview/", editing.preview_cut, name="preview_cut"),
    path("cuts/", guides.cuts, name="cuts"),
    path("cuts/<slug:key>/", guides.cut, name="cut"),
    path("muscles/<slug:key>/", guides.muscle, name="muscle"),
    path("<slug:key>/", guides.guide_page, name="guide"),
    path("<slug:key>/steps/", guides.guide_steps, name="steps"),
    path("<slug:key>/handout/", guides.handout, name="handout"),
    path("<slug:key>/changes/", editing.piece_changes, name="changes"),
    path("<slug:key>/edit/", editing.edit_piece, name="edit"),
    path("<slug:key>/edit/preview/", editing.preview_piece, name="preview"),
    path("<slug:key>/edit/out/", editing.drop_piece, name="drop"),
    path("<slug:key>/steps/<slug:step>/edit/", editing.edit_step, name="edit_step"),
    path("<slug:key>/steps/<slug:step>/preview/", editing.preview_step, name="preview_step"),
    path("<slug:key>/steps/<slug:step>/move/", editing.move_step, name="move_step"),
    path("<slug:key>/plans/<slug:plan>/edit/", editing.edit_plan, name="edit_plan"),
    path("<slug:key>/plans/<slug:plan>/preview/", editing.preview_plan, name="preview_plan"),
    path("<slug:key>/plans/<slug:plan>/out/", editing.drop_plan, name="drop_plan"),
]
