from django.urls import path

from rooms.bench import views

app_name = "bench"
urlpatterns = [
    path("bench/", views.start_page, name="front"),
    path("open/", views.open_bags, name="open_bags"),
    path("open/<slug:key>/", views.open_piece, name="open"),
    path("open/bag/<uuid:bag_id>/", views.of_bag, name="of_bag"),
    path("gave/<slug:piece>/", views.piece_gave, name="gave"),
    path("bench/<uuid:test_id>/", views.bench, name="test"),
    path("bench/<uuid:test_id>/capture/", views.capture, name="capture"),
    path("bench/<uuid:test_id>/take/", views.take, name="take"),
    path("bench/<uuid:test_id>/recall/", views.recall, name="recall"),
    path("bench/<uuid:test_id>/take-back/", views.give_back, name="take_back"),
    path("bench/<uuid:test_id>/step/<int:number>/", views.step, name="step"),
    path("bench/<uuid:test_id>/check/", views.check, name="check"),
    path("bench/<uuid:test_id>/notes/", views.note, name="note"),
    path("bench/<uuid:test_id>/piles/", views.another_pile, name="another_pile"),
    path("bench/<uuid:test_id>/back/", views.part_back, name="part_back"),
    path("bench/<uuid:test_id>/finish/", views.finish_test, name="finish"),
    path("sheet/<uuid:test_id>/", views.sheet, name="sheet"),
    path("sheet/<uuid:test_id>/reopen/", views.reopen_test, name="reopen"),
    path("sheet/<uuid:test_id>/approve/", views.approve_sheet, name="approve"),
    path("sheet/<uuid:test_id>/document.json", views.sheet_document, name="document"),
]
