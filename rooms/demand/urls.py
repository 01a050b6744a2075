from django.urls import path

from rooms.demand.views import demand, selling, wanted

app_name = "demand"
urlpatterns = [
    path("demand/", demand.demand, name="demand"),
    path("demand/factor/<int:pk>/off/", demand.factor_off, name="factor_off"),
    path("demand/standing/<int:pk>/off/", demand.standing_off, name="standing_off"),
    path("sales/", selling.sales, name="sales"),
    path("wanted/", wanted.wanted_list, name="wanted"),
]
