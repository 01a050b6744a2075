from django.urls import path

from rooms.staff import views

app_name = "staff"
urlpatterns = [
    path("who/", views.who, name="who"),
    path("who/<int:pk>/", views.pin, name="pin"),
    path("away/", views.away, name="away"),
    path("office/", views.office, name="office"),
    path("office/first/", views.first, name="first"),
    path("office/password/", views.change_password, name="password"),
    path("people/", views.people, name="people"),
    path("people/new/", views.person, name="new_person"),
    path("people/<int:pk>/", views.person, name="person"),
    path("people/tablet/<uuid:pk>/withdraw/", views.withdraw_tablet, name="withdraw"),
]
