from django.urls import path

from rooms.pricebook import book_views, product_views

app_name = "pricebook"
urlpatterns = [
    path("", book_views.versions, name="versions"),
    path("version/<int:number>/", book_views.version, name="version"),
    path("version/<int:number>/undo/", book_views.undo_version, name="undo"),
    path("compare/", book_views.compare_dates, name="compare"),
    path("shelf/", book_views.shelf, name="shelf"),
    path("file/<slug:kind>/", book_views.export, name="export"),
    path("import/", book_views.import_prices, name="import"),
    path("products/", product_views.products, name="products"),
    path("products/new/", product_views.new_product, name="new_product"),
    path("products/<int:pk>/", product_views.product, name="product"),
    path("products/<int:pk>/price/", product_views.price_by_hand, name="price_by_hand"),
    path("products/<int:pk>/neighbour/", product_views.neighbour, name="neighbour"),
    path("shared/", product_views.shared, name="shared"),
    path("shared/<slug:kind>/<int:pk>/", product_views.shared_row, name="shared_row"),
]
