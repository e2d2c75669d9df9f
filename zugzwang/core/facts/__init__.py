"""The tables of facts – search, visits, crawl, volumes – and what makes them comparable: periods, addresses, cleaning."""
