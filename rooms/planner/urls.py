from django.urls import path

from rooms.planner.views import ordering, planner, selling

app_name = "planner"
urlpatterns = [
    path("", planner.day, name="day"),
    path("<int:plan_id>/give/", planner.give, name="give"),
    path("<int:plan_id>/worth/<slug:kind>/", planner.worth, name="worth"),
    path("jobs/", planner.jobs, name="jobs"),
    path("ways/", planner.front, name="ways_front"),
    path("ways/<slug:key>/", planner.ways, name="ways"),
    path("ways/<slug:key>/moved/", planner.moved, name="moved"),
    path("order/", ordering.order, name="order"),
    path("order/terms/", ordering.terms, name="terms"),
    path("order/<int:order_id>/send/", ordering.send, name="send"),
    path("order/<int:order_id>/back/", ordering.unsend, name="unsend"),
    path("order/<int:order_id>/order.csv", ordering.order_file, name="order_file"),
    path("demand/", ordering.demand, name="demand"),
    path("demand/factor/<int:pk>/off/", ordering.factor_off, name="factor_off"),
    path("demand/standing/<int:pk>/off/", ordering.standing_off, name="standing_off"),
    path("week/", planner.week, name="week"),
    path("sales/", selling.sales, name="sales"),
    path("wanted/", planner.wanted_list, name="wanted"),
]
