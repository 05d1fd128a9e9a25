"""Addresses of runs."""

from django.urls import path

from frostline.runs import live, one, rechecks, views

app_name = "runs"
urlpatterns = [
    path("call/<uuid:pk>/", views.runs, name="runs"),
    path("call/<uuid:pk>/typed/", views.typed, name="typed"),
    path("call/<uuid:pk>/live/", live.begin, name="live_begin"),
    path("live/<uuid:pk>/", live.live, name="live"),
    path("live/<uuid:pk>/now/", live.now, name="live_now"),
    path("live/<uuid:pk>/token/", live.renew, name="live_renew"),
    path("live/<uuid:pk>/end/", live.end, name="live_end"),
    path("call/<uuid:pk>/further/", one.further, name="further"),
    path("call/<uuid:pk>/recheck/", rechecks.ask, name="recheck"),
    path("check/<str:token>/", rechecks.check, name="check"),
    path("feed/<uuid:pk>/", live.feed, name="feed"),
    path("call/<uuid:pk>/<str:digest>/columns/", views.columns, name="columns"),
    path("call/<uuid:pk>/<str:digest>/coming/", one.coming, name="coming"),
    path("call/<uuid:pk>/<str:digest>/compared/", one.compared, name="compared"),
    path("call/<uuid:pk>/<str:digest>/rows.csv", one.rows, name="rows"),
    path("call/<uuid:pk>/<str:digest>/unset/<int:number>/", one.unset, name="unset"),
    path("call/<uuid:pk>/<str:digest>/", one.run, name="run"),
]
