from django.urls import path

from rooms.pricebook.views import book, first_list, products, shopper

app_name = "pricebook"
urlpatterns = [
    path("", book.versions, name="versions"),
    path("version/<int:number>/", book.version, name="version"),
    path("version/<int:number>/undo/", book.undo_version, name="undo"),
    path("compare/", book.compare_dates, name="compare"),
    path("cards/", shopper.all_cards, name="cards"),
    path("cards/<int:pk>/", shopper.one_card, name="card"),
    path("dinner/", shopper.dinner, name="dinner"),
    path("shelf/", book.shelf, name="shelf"),
    path("file/<slug:kind>/", book.export, name="export"),
    path("import/", book.import_prices, name="import"),
    path("products/", products.products, name="products"),
    path("products/from-catalog/", first_list.from_catalog, name="from_catalog"),
    path("products/from-list/", first_list.from_list, name="from_list"),
    path("products/new/", products.new_product, name="new_product"),
    path("products/<int:pk>/", products.product, name="product"),
    path("products/<int:pk>/price/", products.price_by_hand, name="price_by_hand"),
    path("products/<int:pk>/neighbour/", products.neighbour, name="neighbour"),
    path("shared/", products.shared, name="shared"),
    path("shared/<slug:kind>/<int:pk>/", products.shared_row, name="shared_row"),
]
