"""The whole game on one sheet: what a designer asks first, at all depths, of every item, of money, along a
route; and as a page that can be shown to somebody who has nothing installed."""
