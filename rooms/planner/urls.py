from django.urls import path

from rooms.planner.views import planner, selling

app_name = "planner"
urlpatterns = [
    path("", planner.day, name="day"),
    path("<int:plan_id>/give/", planner.give, name="give"),
    path("<int:plan_id>/worth/<slug:kind>/", planner.worth, name="worth"),
    path("jobs/", planner.jobs, name="jobs"),
    path("ways/", planner.front, name="ways_front"),
    path("ways/<slug:key>/", planner.ways, name="ways"),
    path("week/", planner.week, name="week"),
    path("sales/", selling.sales, name="sales"),
    path("wanted/", planner.wanted_list, name="wanted"),
]
