"""Responses: is this an answer, what does it say, is the call worth a retry?"""
