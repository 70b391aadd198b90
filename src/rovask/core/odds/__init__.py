"""The plan under thousands of lucks: how sure the date is, and what it hangs on."""
