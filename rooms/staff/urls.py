from django.urls import path

from rooms.staff.views import people

app_name = "staff"
urlpatterns = [
    path("who/", people.who, name="who"),
    path("who/<int:pk>/", people.pin, name="pin"),
    path("away/", people.away, name="away"),
    path("office/", people.office, name="office"),
    path("office/first/", people.first, name="first"),
    path("office/password/", people.change_password, name="password"),
    path("touched/", people.touched, name="touched"),
    path("people/events/", people.events, name="events"),
    path("people/", people.people, name="people"),
    path("people/new/", people.person, name="new_person"),
    path("people/<int:pk>/", people.person, name="person"),
    path("people/tablet/<uuid:pk>/withdraw/", people.withdraw_tablet, name="withdraw"),
]
