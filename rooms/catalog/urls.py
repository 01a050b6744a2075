from django.urls import path

from rooms.catalog import edit_views, file_views, views

app_name = "catalog"
urlpatterns = [
    path("", views.animals, name="animals"),
    path("same-map/", views.same_map, name="same_map"),
    path("find/", views.finding, name="find"),
    path("find/list/", views.found_list, name="found"),
    path("new/", edit_views.new_piece, name="new_piece"),
    path("changes/", edit_views.changes, name="all_changes"),
    path("files/", file_views.files, name="files"),
    path("files/catalog.json", file_views.export_json, name="export_json"),
    path("files/<slug:table>.csv", file_views.export_csv, name="export_csv"),
    path("cuts/new/", edit_views.edit_cut, {"key": "new"}, name="new_cut"),
    path("cuts/<slug:key>/edit/", edit_views.edit_cut, name="edit_cut"),
    path("cuts/<slug:key>/preview/", edit_views.preview_cut, name="preview_cut"),
    path("cuts/", views.cuts, name="cuts"),
    path("cuts/<slug:key>/", views.cut, name="cut"),
    path("muscles/<slug:key>/", views.muscle, name="muscle"),
    path("<slug:key>/", views.guide_page, name="guide"),
    path("<slug:key>/steps/", views.guide_steps, name="steps"),
    path("<slug:key>/handout/", views.handout, name="handout"),
    path("<slug:key>/changes/", edit_views.piece_changes, name="changes"),
    path("<slug:key>/edit/", edit_views.edit_piece, name="edit"),
    path("<slug:key>/edit/preview/", edit_views.preview_piece, name="preview"),
    path("<slug:key>/edit/out/", edit_views.drop_piece, name="drop"),
    path("<slug:key>/steps/<slug:step>/edit/", edit_views.edit_step, name="edit_step"),
    path("<slug:key>/steps/<slug:step>/preview/", edit_views.preview_step, name="preview_step"),
    path("<slug:key>/steps/<slug:step>/move/", edit_views.move_step, name="move_step"),
    path("<slug:key>/plans/<slug:plan>/edit/", edit_views.edit_plan, name="edit_plan"),
    path("<slug:key>/plans/<slug:plan>/preview/", edit_views.preview_plan, name="preview_plan"),
    path("<slug:key>/plans/<slug:plan>/out/", edit_views.drop_plan, name="drop_plan"),
]
