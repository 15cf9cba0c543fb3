"""The contract as typed models: JSON, docs, the API's description and the pages' types come from them."""
